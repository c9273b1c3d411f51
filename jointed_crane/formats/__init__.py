"""Open formats in and out; one module a format and direction, reading and writing core scenes."""
