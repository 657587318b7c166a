"""Serviceability deflection."""
