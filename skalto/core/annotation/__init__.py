"""What is written on a sheet by rule: dimensions, centre marks, hatching, balloons, tables, frame and title block."""
