.PHONY: demo serve test lint bench fuzz docs shots css

demo:  ## set up and start with the demo project
	@scripts/setup.sh run
	@.venv/bin/supplecast demo

serve:  ## start without the demo project
	@scripts/setup.sh run
	@.venv/bin/supplecast serve

test:  ## set up and run every test
	@scripts/setup.sh dev
	@.venv/bin/python -m pytest

lint:
	@scripts/setup.sh dev
	@.venv/bin/ruff check .
	@.venv/bin/ruff format --check .
	@.venv/bin/mypy
	@.venv/bin/lint-imports

bench:  ## speed, as ratios against bare kernel calls in the same run
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.bench

fuzz:  ## random documents for ten minutes, or SECONDS=n with SEED=n
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.fuzz $(or $(SECONDS),600) $(or $(SEED),1)

docs:  ## rewrite the pages that are made from the code
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.docs

shots:  ## refresh docs/screenshots from the demo project
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.shots

css:  ## rebuild the vendored scripts and styles; needs npm, running does not
	@scripts/vendor.sh
