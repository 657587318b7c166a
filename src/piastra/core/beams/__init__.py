"""Beams: their own strips with effective flanges, flexure over the composite section, links, torsion, bars."""
