"""Stations beside each other: who is surely better, and what is a tie."""
