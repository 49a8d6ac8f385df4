"""What the product knows. No Qt, no file, no clock, and no randomness that is not seeded."""
