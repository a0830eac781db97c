"""The sun: may this array be connected, and what should it give?"""
