"""Finished files, opened by engines that did not write them, and measured."""
