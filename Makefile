# All that a fresh Debian machine with Python 3.11 and Node 20 needs is installed by these.
PYTHON ?= python3.11
PORT ?= 8420
DATA ?= data
VENV := .venv
BIN := $(VENV)/bin
DONE := $(VENV)/.done

.PHONY: setup demo test checks checks-python checks-web docs bench campaign wheel client lock clean

setup: $(DONE)/run $(DONE)/page $(DONE)/compiled

$(DONE)/venv:
	bash tools/venv.sh $(PYTHON) $(VENV)
	mkdir -p $(DONE) && touch $@

$(DONE)/run: $(DONE)/venv requirements/run.lock pyproject.toml
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements/run.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --editable .
	$(BIN)/python -m compileall -q skalto
	touch $@

# What is compiled on its first use is kept: the first 3D model would wait some 15 s for it.
$(DONE)/compiled: $(DONE)/run tools/compiled.py $(shell grep -rl numba skalto --include=*.py)
	$(BIN)/python tools/compiled.py
	touch $@

$(DONE)/node: web/package.json web/package-lock.json $(DONE)/venv
	cd web && npm ci --no-audit --no-fund --loglevel=error
	touch $@

$(DONE)/page: $(DONE)/node $(shell find web/src web/public docs/guide docs/screenshots -type f) web/index.html web/api-docs.html web/vite.config.ts web/vite.viewer.config.ts web/vite.apidocs.config.ts
	cd web && npx vite build --logLevel warn && npx vite build --config vite.viewer.config.ts --logLevel warn && npx vite build --config vite.apidocs.config.ts --logLevel warn
	touch $@

$(DONE)/test: $(DONE)/run requirements/test.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements/test.lock
	bash tools/debian.sh
	touch $@

demo: setup
	exec $(BIN)/skalto serve --demo --data $(DATA) --port $(PORT)

checks: checks-python checks-web

checks-python: $(DONE)/test
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python -m skalto.api.openapi | diff -u web/openapi.json - || (echo "web/openapi.json is stale: run make client" && false)

checks-web: $(DONE)/node
	cd web && npx openapi-typescript openapi.json -o ../$(DONE)/schema.d.ts >/dev/null && diff -u src/api/schema.d.ts ../$(DONE)/schema.d.ts
	cd web && npx tsc --noEmit && npx prettier --check --log-level warn src && npx eslint src --max-warnings 0 && npx vitest run

# What needs nothing of one another is done side by side; the browser tests go one after another: two browsers and their servers
# on two cores would keep each other waiting.
test:
	$(MAKE) --jobs 2 --output-sync=target setup $(DONE)/test checks
	$(BIN)/python -m pytest tests/campaigns tests/api tests/core tests/reference -m "not long" --numprocesses 2 --dist loadfile --durations 15
	$(BIN)/python -m pytest tests/web -m "not long" --durations 10

# The reference of the command line, from the commands themselves.
docs: $(DONE)/run
	$(BIN)/python -m tools.reference

bench: setup $(DONE)/test
	$(BIN)/python -m bench

# Hours: each prints its figures, and ends with status 1 where a promise was broken. ARGS go to one of them: make campaign-kills
# ARGS="--count 100".
campaign: campaign-long campaign-kills campaign-mutants campaign-interface campaign-crowd campaign-disk campaign-machines campaign-hidden campaign-releases campaign-fooled

# The tests that take long, one after another: some look at what the machine has left.
campaign-long: setup $(DONE)/test
	$(BIN)/python -m pytest tests -m long --durations 15

campaign-%: setup $(DONE)/test
	$(BIN)/python -m tests.campaigns.$* $(ARGS)

# One file that installs without Node: dist/skalto-….whl
wheel: setup
	$(BIN)/python tools/wheel.py dist

client: $(DONE)/run $(DONE)/node
	$(BIN)/python -m skalto.api.openapi > web/openapi.json
	cd web && npx openapi-typescript openapi.json -o src/api/schema.d.ts

lock: $(DONE)/venv
	bash tools/lock.sh $(VENV)

clean:
	rm -rf $(VENV) web/node_modules web/dist dist
