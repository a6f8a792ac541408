"""Heavy work in processes of its own: bounded in number, time and memory, and away from the database."""
