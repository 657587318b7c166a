"""What is required of the bars, and what is given."""
