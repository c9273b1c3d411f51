"""The constraints of a packed scene at work over some frames."""
