"""How does what somebody typed become an entry? The same way from every room and from a device's outbox."""
