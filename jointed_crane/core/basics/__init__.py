"""What everything stands on: errors that are sentences, counts in words, frozen values changed quickly."""
