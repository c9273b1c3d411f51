"""What every scene keeps; what breaks it is refused with a sentence."""
