"""What stands behind `denoise`: packs in ONNX files, and one in closed form."""
