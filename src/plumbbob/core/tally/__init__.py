"""What was seen, tried and caught: limits, care, lengths and weights, finding, the same thing twice."""
