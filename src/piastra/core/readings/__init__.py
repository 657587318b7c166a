"""What can be read of a run: fields, slices, values at places, reactions, and the arrangements that govern them."""
