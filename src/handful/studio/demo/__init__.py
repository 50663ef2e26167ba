"""Loading the demo shots."""
