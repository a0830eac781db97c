"""The parts around every view: rail, header, run strip, command finder, welcome."""
