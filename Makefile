# Every target sets up first: `make setup` makes .venv with the program in it.
PYTHON ?= python3.11
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready
TOOLS := $(VENV)/.tools
export PIP_DISABLE_PIP_VERSION_CHECK := 1

.PHONY: system setup demo test search lint bench shots demo-pictures clean

# What the system lacks is installed where that may be done, else the one command is named.
system:
	@if command -v apt-get >/dev/null && ! { command -v xvfb-run && ldconfig -p | grep libxcb-cursor && ldconfig -p | grep libEGL && \
	  { command -v $(PYTHON) || python3 -m venv -h; }; } >/dev/null 2>&1; then \
	  if [ "$$(id -u)" = 0 ]; then .ci/system; \
	  elif sudo -n true 2>/dev/null; then sudo .ci/system; \
	  else echo "Qt's system libraries are missing here: run 'sudo .ci/system' once."; fi; \
	fi

setup: system $(STAMP)

$(STAMP): pyproject.toml constraints.txt
	@command -v $(PYTHON) >/dev/null || command -v python3 >/dev/null || { echo "Python 3.11 is needed: apt-get install python3 python3-venv"; exit 1; }
	@test -x $(BIN)/python || $$(command -v $(PYTHON) || command -v python3) -m venv $(VENV)
	@$(BIN)/python -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Python 3.11 or newer is needed; set PYTHON=/path/to/python3.11"; exit 1; }
	$(BIN)/python -m pip install --quiet --constraint constraints.txt --editable .
	@$(BIN)/python -m compileall -q src  # so that the first start is as quick as any
	@touch $(STAMP)

# What tests, linters and benchmarks need besides.
$(TOOLS): $(STAMP)
	$(BIN)/python -m pip install --quiet --constraint constraints.txt --editable '.[dev]'
	@touch $(TOOLS)

demo: setup
	@if [ -n "$$DISPLAY$$WAYLAND_DISPLAY" ]; then \
	  $(BIN)/sketch-loom --demo; \
	else \
	  mkdir -p demo-output && \
	  $(BIN)/sketch-loom trace src/sketchloom/demo/fair-badge.png -o demo-output/fair-badge.svg --width 180mm --each --report demo-output/fair-badge.json && \
	  echo "There is no display, so the demo job ran without a window; its files are in demo-output/:" && ls demo-output; \
	fi

test: setup $(TOOLS)
	@$(BIN)/python -c 'import PySide6.QtWidgets' || { echo "Qt's system libraries are missing: run 'sudo .ci/system' (Debian)"; exit 1; }
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -q -n auto --dist loadfile tests
	@if command -v Xvfb >/dev/null; then \
	  env -u QT_QPA_PLATFORM QT_QPA_PLATFORM=xcb xvfb-run -a -s '-screen 0 1280x1024x24' $(BIN)/python -m pytest -q tests/app/test_main_job.py; \
	else echo "Xvfb is not here, so the window was driven offscreen only; 'sudo .ci/system' installs it."; fi

# Forty times as many drawn examples, fresh ones each time: for a night, or before a release.
search: setup $(TOOLS)
	SKETCHLOOM_TRIES=40 QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -q -n auto -m 'hypothesis' --timeout 0 tests

lint: setup $(TOOLS)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy

bench: setup $(TOOLS)
	$(BIN)/python benchmarks/large_picture.py
	$(BIN)/python benchmarks/separation.py
	$(BIN)/python benchmarks/start.py
	$(BIN)/python benchmarks/kinds.py
	$(BIN)/python benchmarks/width.py
	$(BIN)/python benchmarks/tidy.py
	$(BIN)/python benchmarks/window.py
	$(BIN)/python benchmarks/layers.py
	$(BIN)/python benchmarks/check.py
	$(BIN)/python benchmarks/sheets.py
	$(BIN)/python benchmarks/send.py
	$(BIN)/python benchmarks/batch.py
	$(BIN)/python benchmarks/window_start.py
	$(BIN)/python benchmarks/edits.py

shots: setup $(TOOLS)
	QT_QPA_PLATFORM=offscreen $(BIN)/python demo/shots.py

demo-pictures: setup $(TOOLS)
	$(BIN)/python demo/draw.py

clean:
	rm -rf $(VENV) demo-output
