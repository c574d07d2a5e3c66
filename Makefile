.PHONY: demo serve test quick lint bench fuzz chaos hostile load mutate tools looks handbook docs shots css lock licences

demo:  ## set up and start with the demo project
	@scripts/setup.sh run
	@.venv/bin/supplecast demo

serve:  ## start without the demo project
	@scripts/setup.sh run
	@.venv/bin/supplecast serve

test:  ## set up and run every test, file by file on every core
	@scripts/setup.sh dev
	@.venv/bin/python -m pytest --numprocesses auto --dist loadfile --no-loadscope-reorder

quick:  ## under two minutes, for the everyday loop: lint, and what needs neither browser nor a minute
	@scripts/setup.sh dev
	@scripts/quick.sh

lint:  ## everything that can be said without running
	@scripts/setup.sh dev
	@.venv/bin/ruff check .
	@.venv/bin/ruff format --check .
	@.venv/bin/mypy
	@.venv/bin/lint-imports
	@.venv/bin/djlint --lint --quiet src/supplecast/web/templates
	@.venv/bin/python -m scripts.docs --check
	@.venv/bin/python -m pip check
	@scripts/lint_frontend.sh

bench:  ## speed, as ratios against bare kernel calls in the same run
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.bench

fuzz:  ## random documents for ten minutes, or SECONDS=n with SEED=n
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.fuzz $(or $(SECONDS),600) $(or $(SEED),1)

chaos:  ## kill servers and workers, fill disks, damage databases; COUNTS="200 200 20 50"; as root
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.chaos $(COUNTS)

hostile:  ## thousands of generated requests that build on each other; COUNT=5200 with SEED=n
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.api $(or $(COUNT),5200) $(or $(SEED),1)

load:  ## many sessions at once: SESSIONS=30 that edit every six seconds for MINUTES=30
	@scripts/setup.sh dev
	@[ -x .venv-load/bin/locust ] || { .venv/bin/python -m venv .venv-load && .venv-load/bin/pip install --quiet -r requirements-load.lock; }
	@.venv/bin/python -m scripts.load $(or $(SESSIONS),30) $(or $(MINUTES),30)

tools:  ## random whole tools, looked at by another engine as they open: COUNT=20 from SEED=1
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.whole_tools $(or $(COUNT),20) $(or $(SEED),1)

mutate:  ## changes to MODULE that no test notices; TESTS=file, tests/test_formulas.py unless told
	@scripts/setup.sh dev
	@scripts/mutate.sh $(or $(MODULE),supplecast.molding.estimates) $(or $(TESTS),tests/test_formulas.py)

looks:  ## refresh what is first shown of the demo, shipped with the program
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.demo_looks

handbook:  ## refresh the pictures of handbook and lessons, from builds of the demo and of the lessons
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.handbook_pictures
	@.venv/bin/python -m scripts.lesson_pictures

docs:  ## rewrite the pages that are made from the code
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.docs

shots:  ## refresh docs/screenshots and the moving picture of the README from the demo project
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.shots
	@.venv/bin/python -m scripts.moving_picture

css:  ## rebuild the vendored scripts and styles; needs npm, running does not
	@scripts/vendor.sh

lock:  ## write the lock files, with hashes, from requirements*.in, and the list of licences
	@scripts/setup.sh dev
	@scripts/lock.sh

licences:  ## write the list of licences of what is installed
	@scripts/setup.sh dev
	@.venv/bin/python -m scripts.licences
