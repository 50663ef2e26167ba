"""Sets up and starts Handful on a Debian machine. Standard library only: it runs before anything
is installed."""
