"""The command line over the application layer."""
