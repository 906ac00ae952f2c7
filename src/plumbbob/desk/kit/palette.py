"""The theme as Qt's own palette, so that what the style sheet does not reach, Qt's dialogs above all, can be read."""

from __future__ import annotations

from PySide6.QtGui import QColor, QPalette

from plumbbob.desk.theme import Theme


def palette_of(theme: Theme) -> QPalette:
    """Every role of Qt's palette in the theme's colours."""
    t, made = theme, QPalette()
    role, group = QPalette.ColorRole, QPalette.ColorGroup
    roles = {
        role.Window: t.panel,
        role.WindowText: t.ink,
        role.Base: t.ground,
        role.AlternateBase: t.panel,
        role.Text: t.ink,
        role.PlaceholderText: t.muted_text,
        role.Button: t.raised,
        role.ButtonText: t.ink,
        role.BrightText: t.vermilion_text,
        role.ToolTipBase: t.raised,
        role.ToolTipText: t.ink,
        role.Highlight: t.fill,
        role.HighlightedText: t.on_fill,
        role.Accent: t.fill,
        role.Link: t.teal_text,
        role.LinkVisited: t.muted_text,
        role.Light: t.raised,
        role.Midlight: t.rule,
        role.Mid: t.rule,
        role.Dark: t.rule,
        role.Shadow: t.rule,
    }
    for which, colour in roles.items():
        made.setColor(which, QColor(colour))
    for which in (role.WindowText, role.Text, role.ButtonText):
        made.setColor(group.Disabled, which, QColor(t.muted))
    made.setColor(group.Disabled, role.Highlight, QColor(t.rule))
    made.setColor(group.Disabled, role.HighlightedText, QColor(t.muted_text))
    return made
