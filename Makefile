# Everything is set up by the first target that needs it; the second time it is quick.
PYTHON ?= python3
SUDO := $(if $(filter 0,$(shell id -u)),,sudo)
VENV := .venv
BIN := $(VENV)/bin
DATA ?= .data
FUZZ ?= 20
# Older ones take twice as long to look through all versions of all packages.
PIP := pip==26.3
# Every package is pinned, so nothing has to be resolved; what is imported is compiled when it is.
PINNED := --quiet --disable-pip-version-check --no-deps --no-compile
# Some machines keep Python from writing what it has compiled; each of the many processes would compile all of it anew.
export PYTHONDONTWRITEBYTECODE :=
SEED ?= $(or $(JOINTED_CRANE_SEED),1)

.PHONY: help demo serve test fuzz lint coverage bench wheel try-wheel assets screenshots guide lock browser clean

help:  ## say what there is
	@grep -hE "^[a-z]+:.*## " $(MAKEFILE_LIST) | sed -E "s/^([a-z]+):.*## (.*)/  make \1\t\2/" | expand -t 20

# What frames are drawn with asks for these two of the system, which one without a desktop may lack.
GRAPHICS := ldconfig -p | grep -q libEGL.so.1 && ldconfig -p | grep -q libGL.so.1

$(VENV)/ready: requirements.txt pyproject.toml
	@PATH="$$PATH:/sbin:/usr/sbin"; { $(GRAPHICS); } || { $(SUDO) apt-get update -qq && $(SUDO) apt-get install -y -qq libegl1 libgl1; }
	@$(PYTHON) -c "import ensurepip" 2>/dev/null || { $(SUDO) apt-get update -qq && $(SUDO) apt-get install -y -qq python3-venv; }
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install $(PINNED) $(PIP)
	$(BIN)/python -m pip install $(PINNED) -r requirements.txt --editable .
	touch $@

$(VENV)/ready-test: $(VENV)/ready requirements-test.txt
	$(BIN)/python -m pip install $(PINNED) -r requirements-test.txt
	touch $@

$(VENV)/ready-lint: $(VENV)/ready requirements-lint.txt
	$(BIN)/python -m pip install $(PINNED) -r requirements-lint.txt
	touch $@

demo: $(VENV)/ready  ## set everything up and start the app with the demo scenes
	$(BIN)/jointed-crane demo --data $(DATA)

serve: $(VENV)/ready  ## start the app without the demo scenes
	$(BIN)/jointed-crane serve --data $(DATA)

browser:
	@command -v chromium-headless-shell >/dev/null || { $(SUDO) apt-get update -qq && $(SUDO) apt-get install -y -qq chromium-headless-shell; }

test: $(VENV)/ready-test browser  ## set everything up, Chromium by apt included, and run all tests
	JOINTED_CRANE_SEED=$(SEED) $(BIN)/python -m tests $(ARGS)

fuzz: $(VENV)/ready-test browser  ## the same promises on many more random scenes, files, requests and kills
	JOINTED_CRANE_FUZZ=$(FUZZ) JOINTED_CRANE_LIMIT=3600 $(BIN)/python -m tests $(ARGS)

lint: $(VENV)/ready-lint  ## style and types, of Python and of scripts
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/biome ci --error-on-warnings .
	$(BIN)/python -m assets.types.check
	$(BIN)/python -m assets.fresh
	$(BIN)/mypy --strict jointed_crane/core
	$(BIN)/mypy jointed_crane heron_lock

coverage: $(VENV)/ready-test  ## how much of the core its own tests run through
	JOINTED_CRANE_SEED=$(SEED) $(BIN)/python -m unittest_parallel --jobs 2 --start-directory tests/core --top-level-directory . --coverage --coverage-source jointed_crane/core

bench: $(VENV)/ready-test  ## speed, as ratios in one run
	$(BIN)/python -m bench

guide: $(VENV)/ready-test browser  ## drive the guide and take its pictures anew
	JOINTED_CRANE_PICTURES=1 $(BIN)/python -m unittest tests.browser.test_guide

screenshots: $(VENV)/ready-test browser  ## take the pictures of the README anew
	$(BIN)/python -m docs.screenshots.take

wheel: $(VENV)/ready  ## build a wheel with all that running the app needs, into dist
	rm -rf build dist
	$(BIN)/python -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist .

try-wheel: wheel  ## install that wheel in an environment of its own, and start the app from it with no checkout
	$(PYTHON) tests/try_wheel.py

assets:  ## rebuild the committed style sheet, vendored script and fonts from npm packages
	cd assets && npm ci --no-audit --no-fund && npm run build

lock: $(VENV)/ready-test  ## pin anew what requirements*.txt hold
	$(BIN)/python -m pip install --quiet pip-tools
	$(BIN)/pip-compile --quiet --strip-extras --no-header --no-emit-index-url --no-emit-trusted-host --no-emit-find-links --output-file requirements.txt pyproject.toml
	$(BIN)/pip-compile --quiet --strip-extras --no-header --no-emit-index-url --no-emit-trusted-host --no-emit-find-links --extra test --constraint requirements.txt --output-file requirements-test.txt pyproject.toml
	$(BIN)/pip-compile --quiet --strip-extras --no-header --no-emit-index-url --no-emit-trusted-host --no-emit-find-links --extra lint --constraint requirements.txt --output-file requirements-lint.txt pyproject.toml

clean:  ## take away what was set up
	rm -rf $(VENV) build *.egg-info
