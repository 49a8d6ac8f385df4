# Everything that a newcomer needs. Each target does the set-up that it needs first.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.set-up

.PHONY: help setup demo test check bench screenshots changelog translations docs wheel deb deb-check format clean soak kill fuzz monkey

help:
	@echo "make demo         start the program with the demo plan (offscreen pictures without a display)"
	@echo "make test         run all tests"
	@echo "make check        lint, types, import contracts"
	@echo "make soak         a hundred thousand random edits against a rebuild, and three times the examples of make test"
	@echo "make kill         300 kills of the document and 100 of the window: nothing is lost"
	@echo "make fuzz         a hundred thousand broken inputs for every reader"
	@echo "make monkey       random keys and clicks at the window for half an hour"
	@echo "make bench        the table of speed and memory"
	@echo "make screenshots  make docs/screenshots anew"
	@echo "make docs         the documentation as a site, in build/site"
	@echo "make wheel        a wheel with compiled kernels for such machines as this one, in dist/"
	@echo "make deb          a Debian package, in dist/"
	@echo "make deb-check    build it, look at it with lintian, install, run and remove it in a bare root"
	@echo "make changelog    make CHANGELOG.md from its fragments"
	@echo "make translations collect the texts for translation, and compile what is translated"
	@echo "make format       format and sort the code"

setup: $(STAMP)

$(STAMP): pyproject.toml constraints.txt tools/setup.sh src/woven_locus/core/kernels/*.py
	@PYTHON="$(PYTHON)" VENV="$(VENV)" bash tools/setup.sh
	@touch $(STAMP)

demo: setup
	@bash tools/demo.sh $(BIN)

test: setup
	@$(BIN)/python -m pytest -n auto

check: setup
	@$(BIN)/ruff format --check src tests benchmarks tools examples
	@$(BIN)/ruff check src tests benchmarks tools examples
	@$(BIN)/mypy
	@$(BIN)/lint-imports

soak: setup
	@SOAK_EDITS=100000 $(BIN)/python -m pytest -q tests/test_soak.py
	@DEEP=1 $(BIN)/python -m pytest -q -n auto tests/core tests/document tests/files tests/link

kill: setup
	@KILLS=300 WINDOW_KILLS=100 $(BIN)/python -m pytest -q tests/test_kill.py

fuzz: setup
	@FUZZ_INPUTS=100000 $(BIN)/python -m pytest -q -n auto tests/test_fuzz.py

monkey: setup
	@MONKEY_MINUTES=$${MONKEY_MINUTES:-30} $(BIN)/python -m pytest -q tests/ui/test_monkey*.py -k seeds

bench: setup
	@$(BIN)/python -m benchmarks.run

screenshots: setup
	@$(BIN)/python tools/screenshots.py

changelog: setup
	@$(BIN)/python tools/changelog.py

translations: setup
	@$(BIN)/python tools/translations.py

docs: setup
	@$(BIN)/python -m mkdocs build --strict -q
	@echo "build/site/index.html"

wheel: setup
	@bash tools/wheel.sh $(abspath $(BIN))

deb:
	@PYTHON="$(PYTHON)" bash tools/deb.sh

deb-check: setup
	@DEB_CHECK=1 $(BIN)/python -m pytest -q tests/test_deb.py

format: setup
	@$(BIN)/ruff check --fix --select I src tests benchmarks tools examples
	@$(BIN)/ruff format src tests benchmarks tools examples

clean:
	rm -rf $(VENV) build dist
