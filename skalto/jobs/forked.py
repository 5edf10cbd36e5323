"""Loaded first by the process that workers' processes are forked from: it is not to outlive the worker."""

from skalto.jobs.child import go_with_parent

go_with_parent()
