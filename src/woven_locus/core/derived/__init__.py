"""What follows from the recorded layers, cell by cell: the rules of cells, and the layers made of them."""
