"""How long and how large things may be, said once for all that reads, checks and answers."""

#: Letters of an id.
LONGEST_ID = 200
#: Letters of a name that people give.
LONGEST_NAME = 120
#: No length, angle or factor of a scene goes beyond this.
LARGEST = 1e7
