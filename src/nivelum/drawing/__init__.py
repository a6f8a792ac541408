"""Drawings as SVG from the core's answers. They place and word; they decide nothing."""
