"""The command line: one module per verb. JSON on stdout, words on stderr."""
