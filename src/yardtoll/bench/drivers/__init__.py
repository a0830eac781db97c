"""Drivers, one file a protocol, found by being here."""
