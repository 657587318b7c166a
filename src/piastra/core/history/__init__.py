"""Deflection over the life of a floor: creep, shrinkage and cracking, stage after stage."""
