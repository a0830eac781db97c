"""Outages gone through with what a station's own runs say of it."""
