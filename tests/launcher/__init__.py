"""The launcher: clear sentences where it cannot go on, and a database that starts and stops."""
