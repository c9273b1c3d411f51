"""Work that may take long, done in processes of its own within bounds of time and memory, and stopped when nobody waits
any more.
"""
