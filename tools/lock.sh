#!/usr/bin/env bash
# Resolve the dependencies anew and write the lock files, hashes and all, without any registry's address.
set -euo pipefail
bin=$1/bin
"$bin/python" -m pip install --quiet pip-tools
compile=("$bin/pip-compile" --quiet --generate-hashes --no-emit-index-url --no-emit-find-links --no-emit-trusted-host
         --no-header --allow-unsafe --strip-extras --resolver=backtracking)
"${compile[@]}" --output-file requirements/build.lock requirements/build.in
"${compile[@]}" --output-file requirements/run.lock pyproject.toml
"${compile[@]}" --extra test --constraint requirements/run.lock --output-file requirements/test.lock pyproject.toml
