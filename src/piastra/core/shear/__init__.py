"""One-way shear of slabs along walls, line supports, beams and the edges of thick regions."""
