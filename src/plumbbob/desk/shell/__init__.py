"""The window itself: header, footer, what is kept, how it ends."""
