"""Pure computation: arrays and frozen records in, frozen records out.

No Qt, no files, no network, no clock, no log. Imports nothing else of ours.
"""
