"""Bars as objects: groups beside the mats, how far they count, their design and schedule."""
