"""The window. The only room that knows Qt."""
