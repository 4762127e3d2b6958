"""What is measured on the part: anchors to its geometry, values, and what a hand means that pulls a dimension."""
