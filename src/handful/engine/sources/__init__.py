"""What a layer is made from: one file for each source."""
