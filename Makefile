# Two commands from a fresh machine: `make demo` and `make test`.
R := R
RSCRIPT := Rscript
OUT ?= demo-output
export MAKEFLAGS := -j2

.PHONY: setup install demo test fuzz sanitize lint check docs site bench screenshots clean

setup:
	@$(RSCRIPT) tools/setup.R

install: setup
	@$(RSCRIPT) tools/install.R

demo: install
	@./scalewort demo --out $(OUT) --overwrite

test: install
	@$(RSCRIPT) tools/test.R

fuzz: install
	@$(RSCRIPT) tools/fuzz.R
	@$(RSCRIPT) tools/fuzz-samples.R

sanitize: setup
	@$(RSCRIPT) tools/sanitize.R

lint:
	@$(RSCRIPT) tools/setup.R develop
	@$(RSCRIPT) tools/lint.R

docs: install
	@$(RSCRIPT) tools/setup.R develop
	@$(RSCRIPT) tools/document.R

site: install
	@$(RSCRIPT) tools/site.R

check: setup
	@$(RSCRIPT) tools/setup.R develop
	@$(RSCRIPT) tools/check.R

bench: install
	@$(RSCRIPT) bench/run.R

screenshots: install
	@$(RSCRIPT) tools/setup.R checks
	@$(RSCRIPT) tools/screenshots.R

clean:
	rm -rf src/*.o src/core/*.o src/*.so scalewort.Rcheck scalewort_*.tar.gz demo-output site
