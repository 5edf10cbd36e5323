"""Release: the parts register, marks, names of files, rules, states, and what came of a release."""
