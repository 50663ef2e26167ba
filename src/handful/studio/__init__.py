"""The web application: people, shots, plates, previews and renders around the engine."""
