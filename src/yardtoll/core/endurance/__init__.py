"""Endurance: a store, its overhead and its loads through an outage, with or without sun."""
