"""The demo project: Saltmarsh Field Station, made up throughout."""
