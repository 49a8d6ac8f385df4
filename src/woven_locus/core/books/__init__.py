"""Prices, yields, funds over time. Whole money and whole seconds, exact."""

from woven_locus.core.books.account import Account
from woven_locus.core.books.funds import Funds, Gone

__all__ = ["Account", "Funds", "Gone"]
