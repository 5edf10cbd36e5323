"""How pieces are laid on plates: tight, apart by the gap, in openings too, on as few plates as possible."""
