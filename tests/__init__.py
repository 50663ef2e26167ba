"""The tests: of the engine alone, of the studio with its database, and of the real interface."""
