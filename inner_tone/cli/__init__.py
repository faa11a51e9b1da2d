"""The command line: the same computation as in the application, for scripts and the curious."""
