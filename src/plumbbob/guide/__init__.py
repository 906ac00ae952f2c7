"""The guide: a page a stage, shown inside the program and on the web pages of the documentation."""
