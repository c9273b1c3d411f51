"""Foreign files read in worker processes, within bounds of time and memory, and stopped when nobody waits any more."""
