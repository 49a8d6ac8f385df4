"""Tools: cells in, edits out. They know nothing of mice or windows."""
