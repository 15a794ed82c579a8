"""Command line: arguments in, core calls, files and JSON out."""
