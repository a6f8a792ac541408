"""Where is heavy work done? In processes of its own, bounded in number, time and memory, away from the database."""
