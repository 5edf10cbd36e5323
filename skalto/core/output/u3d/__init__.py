"""U3D (ECMA-363, 4th edition): scenes written for the inside of a PDF, and read back."""
