"""One module per file format. Everything that can be wrong with a file is a `FileProblem`."""
