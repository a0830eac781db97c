"""Instruments on real wire protocols, the recorder, and simulated stand-ins behind the same wires."""
