"""Views: scenes, charts, layout on the sheet, pictures."""
