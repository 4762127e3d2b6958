# Bare Quill: `make demo` serves it with demo data, `make test` checks everything.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
UV := uv==0.13.9
# those in a browser go first, by themselves: their servers would keep all others company
SCREENS := $(patsubst %,tests/test_%.py,screens keyboard browser sections closeups rows sign_screens sheet_screens list_screens)
# those that take longest begin, so that both hands are busy to the end
LONG := $(patsubst %,tests/test_%.py,truth siege awkward cutting matching outlines helices demo revisions setting_up bounds keeping reaching)
PYTEST := $(BIN)/pytest -n 2 --dist loadfile --no-loadscope-reorder
OTHERS := $(LONG) $(filter-out $(SCREENS) $(LONG),$(wildcard tests/test_*.py))
STATIC := src/barequill/web/static/index.html
FRONT := $(shell find frontend/src -type f 2>/dev/null) frontend/index.html frontend/vite.config.ts src/barequill/core/display/fonts/osifont.ttf

LOOPS := $(shell grep -ls '^@compiled' src/barequill/core/*/*.py)

.PHONY: validator proof truth survey siege bench demo serve test lint types format parts loops chromium clean

demo:
	$(MAKE) --no-print-directory -j2 $(VENV)/.ready $(STATIC)
	$(BIN)/barequill demo

serve: $(VENV)/.ready $(STATIC)
	$(BIN)/barequill serve

test:
	$(MAKE) --no-print-directory -j2 $(VENV)/.ready-dev $(STATIC) chromium lint
	$(PYTEST) -rR $(SCREENS)
	$(PYTEST) $(OTHERS)

$(VENV)/.installed: requirements.txt pyproject.toml
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --disable-pip-version-check "$(UV)"
	$(BIN)/uv pip install --quiet --compile-bytecode --python $(BIN)/python -r requirements.txt
	$(BIN)/uv pip install --quiet --compile-bytecode --python $(BIN)/python --no-deps -e .
	touch $@

$(VENV)/.ready: $(VENV)/.installed $(LOOPS)
	$(BIN)/python -m compileall -q src/barequill
	@echo "laying out the compiled loops of the projection; what does not come along compiled takes some minutes, once"
	$(BIN)/python -m barequill.core.projection.warming
	touch $@

$(VENV)/.tools: $(VENV)/.installed requirements-dev.txt
	$(BIN)/uv pip install --quiet --compile-bytecode --python $(BIN)/python -r requirements-dev.txt
	touch $@

$(VENV)/.ready-dev: $(VENV)/.ready $(VENV)/.tools
	touch $@

frontend/node_modules/.ready: frontend/package.json frontend/package-lock.json
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	touch $@

$(STATIC): frontend/node_modules/.ready $(FRONT)
	cd frontend && npm run --silent build
	touch $@

lint: $(VENV)/.tools frontend/node_modules/.ready
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	cd frontend && npm run --silent lint && npm run --silent check && npm run --silent test

# the front end's types, from the application's own schema
types: $(VENV)/.ready frontend/node_modules/.ready
	$(BIN)/python -m barequill.web.openapi > frontend/src/api/openapi.json
	$(BIN)/python -m barequill.web.openapi offered > frontend/src/api/offered.json
	cd frontend && npm run --silent types

format: $(VENV)/.tools frontend/node_modules/.ready
	$(BIN)/ruff check --fix . && $(BIN)/ruff format .
	cd frontend && npm run --silent format

# what comes along of the loops compiled, after an edit of one
loops: $(VENV)/.ready
	$(BIN)/python -m barequill.core.projection.warming pack

# the demo parts' STEP files, built anew with the kernel
parts: $(VENV)/.ready
	$(BIN)/python -m barequill.demo.building

chromium:
	@(command -v chromium && command -v rsvg-convert) >/dev/null || \
		(apt-get update -q && apt-get install -y -q --no-install-recommends chromium librsvg2-bin)

# of others, for PDF/A: a quarter of a gigabyte, so not for make test
validator:
	@test -e /usr/share/java/preflight.jar -a -e /usr/share/java/jaxb-api.jar || (apt-get update -q && apt-get install -y -q \
		--no-install-recommends default-jre-headless libpdfbox2-java libactivation-java libjaxb-api-java libcommons-io-java libcommons-logging-java)

clean:
	rm -rf $(VENV) frontend/node_modules src/barequill/web/static

# all tests, as far as they go: every random case, every kill, a wheel in an environment of its own
proof: $(VENV)/.ready-dev $(STATIC) chromium validator
	BAREQUILL_AT_LENGTH=1 $(PYTEST) $(OTHERS)

# the projection against rays, on the demo parts, the real parts beside the project, and 200 parts made at random
truth: $(VENV)/.ready-dev
	$(BIN)/python -m tools.truth $(wildcard src/barequill/demo/parts/*.step ../shared/parts/*.st*)
	$(BIN)/python -m tools.cuts areas $(wildcard src/barequill/demo/parts/*.step ../shared/parts/*.st*)
	$(BIN)/python -m tools.cuts rays $(wildcard src/barequill/demo/parts/*.step ../shared/parts/*.st*)

# many part files, such as PARTS=FOLDER holds: what is refused, how true every view is, how long it takes
survey: $(VENV)/.ready-dev
	@test -n "$(PARTS)" || { echo "Say which folder of STEP files: make survey PARTS=FOLDER"; exit 2; }
	$(BIN)/python -m tools.survey "$(PARTS)"

# attacks on a running server, at length: kills, spoilt part files, many writers, many who wait, memory
siege: $(VENV)/.ready-dev
	$(BIN)/python -m tools.siege

# the projection beside the kernel's own algorithm, part by part and view by view, and on a plate that grows
bench: $(VENV)/.ready-dev
	$(BIN)/python -m tools.bench_screen
	$(BIN)/python -m tools.bench_closeups
	$(BIN)/python -m tools.bench_sizes
	$(BIN)/python -m tools.bench_assembly
	$(BIN)/python -m tools.bench_revision
	$(BIN)/python -m tools.bench $(or $(wildcard ../shared/parts/*.st*),$(wildcard src/barequill/demo/parts/*.step))
