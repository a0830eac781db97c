"""Curves of volts and amps against time, many samples a cycle, as a scope sees them."""
