"""Views: scenes, view transforms, layout on the sheet, placed views."""
