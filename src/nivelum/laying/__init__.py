"""The Laying room: the layout, rows by the gauge, the cut list, packs."""
