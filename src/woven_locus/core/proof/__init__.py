"""What is wrong with a plan: near misses, and the list of findings."""
