"""How does a job come in and go out? Job files, outlines, surfaces."""
