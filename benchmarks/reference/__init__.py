"""References that the table measures against."""
