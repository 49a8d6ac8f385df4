"""The checks of a plan, by the stage of the work that they belong to: each a small function that yields faults."""
