# Two commands do everything: `make demo` and `make test`.
PYTHON ?= $(shell command -v python3.11 || command -v python3)
VENV := .venv
PORT ?= $(or $(ANVILSONG_PORT),8765)
export ANVILSONG_PORT := $(PORT)
STAMP := $(VENV)/.installed
STAMP_DEV := $(VENV)/.installed-dev

.PHONY: demo test check bench mutants screenshots words clean browser server

$(VENV)/bin/python:
	$(PYTHON) -m venv $(VENV)

$(STAMP): $(VENV)/bin/python pyproject.toml constraints.txt
	$(VENV)/bin/pip install --quiet --disable-pip-version-check --constraint constraints.txt --editable .
	@$(VENV)/bin/python scripts/compile_kernels.py  # once, so that the first part does not wait for it
	@touch $@

$(STAMP_DEV): $(STAMP)
	$(VENV)/bin/pip install --quiet --disable-pip-version-check --constraint constraints.txt --editable ".[dev,postgres]"
	@touch $@

demo: $(STAMP)  ## the invented workshop, in its own database file, served
	ANVILSONG_DATA="$${ANVILSONG_DATA:-data/demo.sqlite}" $(VENV)/bin/anvilsong demo

browser:  ## Chromium, which the browser tests drive
	@sh scripts/ensure_browser.sh

server:  ## PostgreSQL, of which the tests start one of their own
	@sh scripts/ensure_postgres.sh

check: $(STAMP_DEV)  ## lint, format, types, import contracts
	$(VENV)/bin/ruff check src tests bench scripts
	$(VENV)/bin/ruff format --check src tests bench scripts
	$(VENV)/bin/mypy
	$(VENV)/bin/lint-imports

test: $(STAMP_DEV) browser server check  ## everything
	$(VENV)/bin/pytest -n 3  # browsers wait a good part of their time

bench: $(STAMP_DEV)  ## one line a figure
	@for file in bench/*.py; do case $$file in bench/_*) ;; *) $(VENV)/bin/python $$file || exit 1 ;; esac; done

mutants: $(STAMP_DEV)  ## small faults in the core and the store: how many the tests notice (an hour)
	$(VENV)/bin/python scripts/mutants.py

screenshots: $(STAMP_DEV) browser  ## refresh docs/screenshots from the demo data
	$(VENV)/bin/python scripts/screenshots.py

words: $(STAMP_DEV)  ## every visible text of the demo workshop, in words.txt
	$(VENV)/bin/python scripts/words.py words.txt

clean:
	rm -rf $(VENV) data .mypy_cache .ruff_cache .pytest_cache .hypothesis
