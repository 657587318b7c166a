"""Drawings in DXF: reading them safely, making a floor of their layers, and writing a floor as one."""
