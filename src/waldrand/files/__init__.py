"""Reading and writing: pictures, sheets (OpenRaster), layouts (TOML), all of it as if it were hostile."""
