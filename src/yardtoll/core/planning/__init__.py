"""The test worked out before anything is switched on: loads, wiring, what to expect, checks."""
