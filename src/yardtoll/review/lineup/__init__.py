"""Stations side by side: who takes part, what is compared, and where each stands."""
