"""Yard Toll: bench-test portable power stations and publish figures that stand up."""

__version__ = "0.1.0"
