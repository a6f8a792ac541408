"""A made-up kind of entry, as CONTRIBUTING adds one: `kind` is its file in the core, `face` its file on the web."""
