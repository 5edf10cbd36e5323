"""Tasks: what workers do, each a function of one frozen argument that leaves its result as blobs under the argument's key.

The arguments are light, so that whoever asks loads nothing; what a task needs to work is loaded when it works.
"""
