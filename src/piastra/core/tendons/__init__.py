"""Tendons: their curves, their forces, and what they do to the floor."""
