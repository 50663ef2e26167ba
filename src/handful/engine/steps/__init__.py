"""What is done to a layer's picture: one file for each step."""
