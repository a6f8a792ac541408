"""The Joints room: passes over the paving, units to mend, filling."""
