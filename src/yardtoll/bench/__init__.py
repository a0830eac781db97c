"""Instruments on real wires, the recorder, and simulated stand-ins behind the same wires."""
