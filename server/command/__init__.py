"""The command line: first user, backup and restore, check, serve."""
