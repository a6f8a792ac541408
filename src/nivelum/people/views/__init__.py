"""The pages of people: a crew's, one's own, and those that a link opens."""
