"""Views: cameras of projected and pictorial views, layout on the sheet, pictures."""

from .picture import Picture, Projector, Shot, Studio, draw_view

__all__ = ["Picture", "Projector", "Shot", "Studio", "draw_view"]
