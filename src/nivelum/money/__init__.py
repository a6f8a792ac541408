"""Money: a crew's own prices and terms, estimates as they were kept. Nobody sees any of it without its verb."""
