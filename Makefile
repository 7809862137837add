# make demo starts the demo; make test checks everything. Both set up what they need.
PYTHON ?= python3
BIN := .venv/bin
S := .stamps
PAGE := src/kalendor/page/index.html
PORT ?= 8765
unexport PYTHONDONTWRITEBYTECODE # each of the many processes that tests start would compile the program again
PAGE_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/tsconfig.json

help: ## this list
	@grep -hE '^[a-z-]+:.*## ' Makefile | awk -F ':.*## ' '{printf "  make %-11s %s\n", $$1, $$2}'

.PHONY: help dist demo serve page test check checks unit browser bench bench-large bench-hour soak schema types shots licences audit clean

demo: $(S)/run $(PAGE) ## write the demo workspace and start the server over it
	$(BIN)/kalendor demo --port $(PORT)

serve: $(S)/run $(PAGE) ## start the server over workspace/
	$(BIN)/kalendor serve --port $(PORT)

page: $(PAGE) ## build the page

test: checks unit browser ## all checks and tests

checks: $(S)/dev $(S)/web ## formatting, types, imports, generated files
	$(BIN)/ruff check src tests bench docs
	$(BIN)/ruff format --check src tests bench docs
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python -m tests.published --check
	$(BIN)/python docs/links.py
	cd web && npx --no-install openapi-typescript openapi.json --default-non-nullable false -o /tmp/kalendor-types.ts >/dev/null && cmp -s /tmp/kalendor-types.ts src/api/types.ts || { echo "web/src/api/types.ts is stale; run make types"; exit 1; }
	cd web && npm run --silent lint && npx --no-install tsc --noEmit

unit: $(S)/dev $(S)/web $(S)/nginx ## tests beside the page
	$(BIN)/python -m pytest -q -n 3 --dist worksteal --ignore=tests/browser --doctest-modules src tests

browser: $(S)/dev $(S)/chromium $(PAGE) ## tests of the page in headless Chromium
	$(BIN)/python -m pytest -q -n 3 --dist worksteal tests/browser

bench: $(S)/dev $(S)/chromium $(PAGE) ## measure
	$(BIN)/python -m bench
	$(BIN)/python -m bench.files
	$(BIN)/python -m bench.editions
	$(BIN)/python -m bench.paper
	$(BIN)/python -m bench.screen
	$(BIN)/python -m bench.load
	$(BIN)/python -m bench.cores
	$(BIN)/python -m bench.sentence

bench-large: $(S)/dev ## measure up to 200 million records, in half an hour and 20 GB of disk
	$(BIN)/python -m bench.large
	$(BIN)/python -m bench.scale

bench-hour: $(S)/dev ## keep a server busy for an hour, and follow its memory, descriptors and threads
	$(BIN)/python -m bench.soak

soak: $(S)/dev $(S)/chromium $(PAGE) ## long tests, and long random runs
	$(BIN)/python -m pytest -q -n 2 -m long tests
	KALENDOR_EXAMPLES=2000 $(BIN)/python -m pytest -q -n 2 tests/core
	KALENDOR_EXAMPLES=120 KALENDOR_RUNS=400 KALENDOR_KILLS=60 KALENDOR_BODIES=20000 KALENDOR_BYTES=2000 KALENDOR_DOCUMENTS=5000 KALENDOR_CASES=150 KALENDOR_LETTERS=5 $(BIN)/python -m pytest -q -n 2 tests/api/test_machine.py tests/api/test_problems.py tests/api/test_every_route.py tests/api/test_from_the_document.py tests/editions/test_machine.py tests/editions/test_killed.py tests/desk/test_bringing_in.py tests/intake/test_any_bytes.py tests/definitions/test_any_document.py tests/output/test_workbook.py tests/desk/test_linked.py tests/desk/test_kept_parts.py tests/desk/test_partitioned.py tests/intake/test_specimen.py
	KALENDOR_YEARS=2000 $(BIN)/python -m pytest -q -n 2 tests/year
	KALENDOR_EXAMPLES=5000 KALENDOR_SENTENCES=10000 $(BIN)/python -m pytest -q -n 2 tests/sentence

types: $(S)/dev $(S)/web ## write what is generated from the code
	$(BIN)/python -m tests.published
	cd web && npm run --silent types

shots: $(S)/dev $(S)/chromium $(PAGE) ## take the pictures in docs/screenshots
	$(BIN)/python docs/screenshots/take.py

dist: $(S)/dev $(PAGE) ## a wheel with the page in it, in dist/, tried in a clean environment
	rm -rf build dist
	$(BIN)/python -m pip wheel -q --disable-pip-version-check --no-deps -w dist .
	$(BIN)/python tools/try_wheel.py dist/*.whl constraints.txt

licences: $(S)/dev $(S)/web ## write docs/reference/licences.md
	$(BIN)/python tools/licences.py

audit: $(S)/dev $(S)/web ## look for known weaknesses in what is used, where the registries answer
	$(BIN)/python -m pip install -q --disable-pip-version-check pip-audit && $(BIN)/pip-audit --skip-editable || true
	cd web && npm audit --omit=dev || true

clean: ## remove what was set up and built
	rm -rf .venv $(S) web/node_modules src/kalendor/page workspace

$(S)/venv:
	@mkdir -p $(S)
	$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Kalendor needs Python 3.11 or newer; set PYTHON=..."; exit 1; }
	$(PYTHON) -m venv .venv || { echo "python3-venv is missing: apt-get install python3-venv"; exit 1; }
	@touch $@

$(S)/run: $(S)/venv pyproject.toml constraints.txt
	$(BIN)/python -m pip install -q --disable-pip-version-check -c constraints.txt -e .
	@touch $@

$(S)/dev: $(S)/venv pyproject.toml constraints.txt
	$(BIN)/python -m pip install -q --disable-pip-version-check -c constraints.txt -e '.[dev]'
	@touch $@ $(S)/run

$(S)/web: web/package-lock.json
	@mkdir -p $(S)
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

$(S)/chromium:
	@mkdir -p $(S)
	command -v chromium >/dev/null && command -v chromedriver >/dev/null || { apt-get update -q && apt-get install -q -y chromium chromium-driver; }
	@touch $@

$(S)/nginx: # a proxy for one test, which is skipped without it
	@mkdir -p $(S)
	command -v nginx >/dev/null || { apt-get update -q && apt-get install -q -y --no-install-recommends nginx-light; } || true
	@touch $@

$(PAGE): $(S)/web $(PAGE_SOURCES)
	cd web && npx --no-install vite build --logLevel warn
	@touch $@
