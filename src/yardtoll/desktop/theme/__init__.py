"""Colours, type and the style sheet made from them."""
