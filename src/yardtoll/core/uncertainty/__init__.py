"""Uncertainty: meters' limits of error, budgets, what results share, and what would settle one."""
