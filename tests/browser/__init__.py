"""The real interface in Chromium."""
