"""Building models in IFC: what they have of floors, and what could not be read."""
