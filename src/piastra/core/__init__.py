"""The computation: no web, no database, no files."""
