"""The front end's own tests, run by its test runner."""
