"""What lies between supply and rig: ratings, resistances, legs tied or split, transformers."""
