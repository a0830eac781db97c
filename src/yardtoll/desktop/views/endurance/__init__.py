"""Endurance: hour by hour through an outage, with these appliances and that sun."""
