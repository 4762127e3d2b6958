"""A whole sheet as a display list: frame, views, annotations, marks of views, in stages."""
