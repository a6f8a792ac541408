"""What the Lifts room sends: one form a kind of entry. Amounts are typed in the crew’s own units."""
