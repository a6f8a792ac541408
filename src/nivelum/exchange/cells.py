"""Cells of a sheet as a spreadsheet may read them."""

from typing import Any


def harmless(cell: Any) -> Any:
    """A cell no spreadsheet takes for a formula."""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(("=", "+", "-", "@", "\t", "\r")) else cell
