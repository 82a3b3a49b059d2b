"""The model of each kind of supply: a new kind is a module here and nothing else."""
