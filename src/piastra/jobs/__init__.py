"""Runs on a Dask cluster: progress, cancellation, and what to do when something dies."""
