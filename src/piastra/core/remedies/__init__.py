"""What would mend a floor, by the real checks with each change made."""
