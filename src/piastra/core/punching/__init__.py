"""Punching zones: where they are, what acts on them; standard-neutral."""
