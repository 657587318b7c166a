"""The web API: parse, call, answer."""
