"""What a drag means, cell by cell, as one gesture of the history; nothing here knows a mouse."""
