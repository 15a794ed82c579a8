"""Computation: imports no Qt, opens no window, reads no settings file."""
