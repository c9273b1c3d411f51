"""Speed, measured as ratios within one run; nothing here is asserted."""
