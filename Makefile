# Nothing but make and Python 3.11+ is needed: each target builds what it needs.
PYTHON ?= python3
VENV = .venv
BIN = $(VENV)/bin

.PHONY: demo test soak fuzz oracle pure generated check bench clean

demo: $(VENV)/.program
	$(BIN)/grainstack demo demo-out

test: $(VENV)/.installed
	$(BIN)/pytest

# What takes long by nature: failing disks, kills, fuzzing, browsers and office programs. With TIMES=20 also twenty times
# as many random drawings, merges and designs as in the tests, other ones each time.
soak: $(VENV)/.installed
	$(BIN)/pytest -m soak
	test -z "$(TIMES)" || SOAK=$(TIMES) $(BIN)/pytest tests/chart tests/paint tests/summary

# Each target of tests/fuzzing for so many seconds, led by coverage; TIMES=600 goes on longer.
fuzz: $(VENV)/.installed
	$(BIN)/pip install --quiet atheris
	$(BIN)/python -m tests.fuzzing $(or $(TIMES),60)

# Thousands of random requests against a slow computation of the same; ORACLE_SEED=N starts elsewhere.
oracle: $(VENV)/.installed
	ORACLE=$(or $(TIMES),4000) $(BIN)/pytest tests/oracle

# The figures without the compiled parts.
pure: $(VENV)/.installed
	GRAINSTACK_PURE=1 $(BIN)/pytest tests/summary tests/records tests/oracle

# What is made of the source and kept beside it: reference pages, schemas, catalogues.
generated: $(VENV)/.installed
	$(BIN)/python -m grainstack.cli.reference docs/reference
	$(BIN)/python -m grainstack.catalogues.upkeep
	$(BIN)/python -m grainstack.api.stubs src/grainstack/__init__.pyi

check: $(VENV)/.installed
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports

bench: $(VENV)/.installed
	$(BIN)/pip install --quiet --editable '.[bench]'
	$(BIN)/python benchmarks/whole_process.py
	$(BIN)/python benchmarks/limits_and_design.py
	$(BIN)/python benchmarks/drawing.py
	$(BIN)/python benchmarks/plan.py
	$(BIN)/python benchmarks/pages.py
	$(BIN)/python benchmarks/editing.py
	$(BIN)/python benchmarks/engines.py

# The program alone; what its tests need as well takes twice as long to install.
$(VENV)/.program: pyproject.toml $(wildcard src/grainstack/*/kernel.pyx src/grainstack/*/*/kernel.pyx)
	$(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --editable .
	touch $@

$(VENV)/.installed: pyproject.toml $(wildcard src/grainstack/*/kernel.pyx src/grainstack/*/*/kernel.pyx)
	$(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --editable '.[dev]'
	touch $@

clean:
	rm -rf $(VENV) demo-out
