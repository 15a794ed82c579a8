"""Machines: what a cutter does with a file; a stand-in for one, which shares no code with the writers."""

from sketchloom.core.machine.hpgl import Drawn, read_hpgl

__all__ = ["Drawn", "read_hpgl"]
