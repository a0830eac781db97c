"""A whole yard as a Frictionless data package: tables, traces and pictures, out and in."""
