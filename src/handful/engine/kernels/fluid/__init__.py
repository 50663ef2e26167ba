"""Gas and liquid on grids: carried along, pushed, and kept from piling up."""
