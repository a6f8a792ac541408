"""The craft of a paved base, with no interface: levels, falls, stations, verdicts, stages.

Lengths and levels are metres, levels are positive upward on the job's datum, unless a name says otherwise.
"""

VERSION = "0.2.0.dev0"
