"""Roads: the shape of a road cell from its neighbours, and where road may be laid."""
