"""What several kinds of annotations have in common: how they are solved, hang and are laid out."""
