"""The open document: plan, history, path, routes kept current, and change notices. No Qt."""

from woven_locus.document.document import Document
from woven_locus.document.routes import PinnedRoute, RouteBook

__all__ = ["Document", "PinnedRoute", "RouteBook"]
