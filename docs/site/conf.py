"""How the guide and the pages of the code are built: `./run docs`, offline."""

project = "Plumbbob"
author = "The Plumbbob founders"
copyright = "2026, The Plumbbob founders"
extensions = ["myst_parser", "sphinx.ext.autodoc", "sphinx.ext.autosummary", "sphinx.ext.napoleon"]
source_suffix = {".md": "markdown", ".rst": "restructuredtext"}
autosummary_generate = True
autodoc_member_order = "bysource"
autodoc_typehints = "description"
napoleon_google_docstring = False
myst_heading_anchors = 3
html_theme = "alabaster"
html_title = "Plumbbob"
exclude_patterns = ["_build"]
suppress_warnings = ["myst.xref_missing", "misc.highlighting_failure", "ref.python", "toc.not_included"]
