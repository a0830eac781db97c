"""Curves of volts and amps against time, many samples a cycle: what a scope or a sound card sees."""
