"""What a verdict looks like: each drawing as plain figures for a template."""
