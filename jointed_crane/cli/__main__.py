"""`python -m jointed_crane.cli`, the same as the command `jointed-crane`."""

from jointed_crane.cli import main

if __name__ == "__main__":
    main()
