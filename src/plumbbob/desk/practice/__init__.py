"""The view to practise in: made-up passes, an answer on the picture, the truth over it."""
