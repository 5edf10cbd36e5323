"""From parts to a cut plate: profiles, arrangement, operations, and a simulated cutter that runs the finished file."""
