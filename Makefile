# Everything that a newcomer needs. Each target does the set-up that it needs first.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.set-up

.PHONY: help setup demo test check bench screenshots format clean soak

help:
	@echo "make demo         start the program with the demo plan (offscreen pictures without a display)"
	@echo "make test         run all tests"
	@echo "make check        lint, types, import contracts"
	@echo "make soak         a hundred thousand random edits against a rebuild"
	@echo "make bench        the table of speed and memory"
	@echo "make screenshots  make docs/screenshots anew"
	@echo "make format       format and sort the code"

setup: $(STAMP)

$(STAMP): pyproject.toml constraints.txt tools/setup.sh src/woven_locus/core/kernels/*.py
	@PYTHON="$(PYTHON)" VENV="$(VENV)" bash tools/setup.sh
	@touch $(STAMP)

demo: setup
	@bash tools/demo.sh $(BIN)

test: setup
	@$(BIN)/python -m pytest

check: setup
	@$(BIN)/ruff format --check src tests benchmarks tools
	@$(BIN)/ruff check src tests benchmarks tools
	@$(BIN)/mypy
	@$(BIN)/lint-imports

soak: setup
	@SOAK_EDITS=100000 $(BIN)/python -m pytest -q tests/test_soak.py

bench: setup
	@$(BIN)/python -m benchmarks.run

screenshots: setup
	@$(BIN)/python tools/screenshots.py

format: setup
	@$(BIN)/ruff check --fix --select I src tests benchmarks tools
	@$(BIN)/ruff format src tests benchmarks tools

clean:
	rm -rf $(VENV) build dist
