"""The way from a sheet to takes: stages, plans, runs, recipes."""
