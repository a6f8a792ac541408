"""What do devices read by themselves? Their drivers, and devices that stand in."""
