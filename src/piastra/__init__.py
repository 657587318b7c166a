"""Piastra: design of concrete floors."""

__version__ = "0.1.0"
