# make demo: from nothing to the running program.   make test: everything that is checked, checked (ALL=1: also what
# has been proved and has not changed).   make quick: after each change, in minutes (ONLY=a word, or a path of tests).

PYTHON ?= python3.11
BIN := .venv/bin
PAGE := nervykite/server/page/index.html
SERVED := $(shell find nervykite -name '*.py')
DRAWN := $(shell find web/src web/public -type f -not -name schema.d.ts) web/index.html web/vite.config.ts web/tsconfig.json

.PHONY: setup demo test quick check check-program check-page tested-page format clean

setup:
	@$(MAKE) --no-print-directory --jobs=2 .stamps/kernels $(PAGE)

.stamps/python: requirements.lock pyproject.toml
	test -x $(BIN)/pip || $(PYTHON) -m venv .venv || (apt-get update && apt-get install -y python3-venv && $(PYTHON) -m venv --clear .venv)
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	ldconfig -p | grep -q libgomp.so.1 || (apt-get update && apt-get install -y --no-install-recommends libgomp1)
	$(BIN)/python -c "import skia" || (apt-get update && apt-get install -y --no-install-recommends libegl1 libgl1 libfontconfig1)
	@mkdir -p .stamps && touch $@

# What is compiled once, while the page is built.
.stamps/kernels: .stamps/python
	$(BIN)/python -m nervykite.core.warm
	@mkdir -p .stamps && touch $@

.stamps/node: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund --silent
	@mkdir -p .stamps && touch $@

# The page's types come from the API's description, the description from the code.
web/src/api/schema.d.ts: .stamps/python .stamps/node $(SERVED)
	$(BIN)/python -m nervykite.server.openapi > web/openapi.json
	cd web && npm run --silent types > /dev/null

$(PAGE): web/src/api/schema.d.ts $(DRAWN)
	cd web && npm run --silent build > /dev/null

demo: setup
	$(BIN)/nervykite demo

check: setup
	@$(MAKE) --no-print-directory --jobs=2 --output-sync check-program check-page

check-program:
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports --no-logo > .stamps/imports || (cat .stamps/imports && false)
	$(BIN)/python -m tools.check

check-page:
	cd web && npm run --silent check

/usr/bin/chromium:
	apt-get update && apt-get install -y --no-install-recommends chromium

tested-page: setup /usr/bin/chromium
	cd web && npm run --silent test

test: check tested-page
	$(BIN)/pytest $(if $(ALL),--all)

quick: check $(if $(ONLY),,tested-page)
	$(BIN)/pytest $(if $(wildcard $(ONLY)),$(ONLY),--quick $(if $(ONLY),-k "$(ONLY)"))

format: setup
	$(BIN)/ruff check --fix .
	$(BIN)/ruff format .
	cd web && npm run --silent format

clean:
	rm -rf .venv .stamps web/node_modules web/openapi.json web/src/api/schema.d.ts nervykite/server/page
