"""Provisions of ACI 318-19 for the bars of slabs, a file each."""
