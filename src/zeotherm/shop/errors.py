"""Errors of the outside world; the message is for the person."""

from __future__ import annotations


class ShopError(Exception):
    """What went wrong, where, and what to do, in one or two sentences."""
