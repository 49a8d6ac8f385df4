"""Small parts that several panels are made of."""
