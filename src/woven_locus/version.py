"""The version, of the program and of its package."""

__version__ = "0.2.0"
