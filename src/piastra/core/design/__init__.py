"""Reinforcement and punching: standard-neutral, calling :mod:`piastra.core.standards`."""
