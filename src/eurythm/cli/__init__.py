"""The command line, which is also the door for scripts."""
