"""`python -m plumbbob.cli`."""

from plumbbob.cli.commands import main

main()
