"""What is worked out about the plan for the window, and kept current while it changes."""
