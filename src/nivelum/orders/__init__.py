"""The Order room: what do we need? Every material of a job by stage, how it was reckoned, what it is sold in."""
