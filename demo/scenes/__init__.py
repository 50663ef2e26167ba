"""The scenes of Saltglass, one file each."""
