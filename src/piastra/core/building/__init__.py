"""Several floors of one building: what they hand down to each other."""
