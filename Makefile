# Each target does its own set-up; the second time it is quick.
PYTHON ?=
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready

FUZZ_SEEDS ?= 400

.PHONY: demo test fuzz bench lint screenshots clean
.DEFAULT_GOAL := test

$(STAMP): pyproject.toml setup.py packaging/setup.sh $(wildcard src/mevrik/engine/kernel/*) $(wildcard src/mevrik/lang/scan/*.[ch])
	@PYTHON=$(PYTHON) sh packaging/setup.sh $(VENV)
	@touch $@

demo: $(STAMP)            ## start the desktop on a fresh copy of the demo project
	@$(BIN)/mevrik demo

test: $(STAMP)            ## all tests, no display needed
	@$(BIN)/python -m compileall -q src
	@$(BIN)/ruff check src tests bench packaging
	@$(BIN)/mypy
	@QT_QPA_PLATFORM=offscreen $(BIN)/pytest -n 2

fuzz: $(STAMP)            ## a long run of mutated sources; FUZZ_SEEDS=n says how long
	@MEVRIK_FUZZ_SEEDS=$(FUZZ_SEEDS) MEVRIK_FUZZ_ROUNDS=20 $(BIN)/pytest -n 2 -q tests/lang/test_fuzz.py

lint: $(STAMP)            ## style and types only
	@$(BIN)/ruff check src tests bench packaging
	@$(BIN)/mypy

bench: $(STAMP)           ## speed, beside hand-written C compiled in the same run
	@$(BIN)/python -m compileall -q src
	@$(BIN)/python bench/bench.py

screenshots: $(STAMP)     ## the pictures in docs/screenshots, from the demo project
	@QT_QPA_PLATFORM=offscreen $(BIN)/python packaging/screenshots.py

clean:
	rm -rf $(VENV) build dist src/*.egg-info src/mevrik/engine/_kernel*.so src/mevrik/lang/_scan*.so
