"""Provisions of EN 1992-1-1 for the bars of slabs, a file each."""
