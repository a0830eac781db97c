"""Drawn pieces that views share."""
