"""What the window knows besides the document: what is chosen, in hand, selected, and where the pointer is."""
