"""Files in and out of the window: opening, saving, recovery, tables and rasters, settings."""
