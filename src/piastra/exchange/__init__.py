"""Files: the floor file and the results file."""
