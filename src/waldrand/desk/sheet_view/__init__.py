"""The sheet as it is looked at and worked on."""
