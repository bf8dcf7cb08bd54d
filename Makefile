# make run    install what is missing, start the database, load the demo, serve on 127.0.0.1:8080 (PORT changes it)
# make test   everything, the browser tests too, on a database of its own
# make thorough  the long checks whole, of which make test runs a seeded tenth (about 20 minutes)
# make mutants  what the tests of core notice, package by package (hours; SHARE=0.1 tries a tenth)
# make shots  retake docs/screenshots from the demo data
SHELL := /bin/sh
FLAGS := -trimpath -tags=nomsgpack
export CGO_ENABLED ?= 0

.PHONY: run build test thorough mutants check assets-check shots bench assets library licences stop
run:
	@scripts/run.sh

build:
	@go build $(FLAGS) -o bin/wavekine ./cmd/wavekine

test: check assets-check
	@scripts/test.sh ./...
	@RACE=1 scripts/test.sh ./store/... ./core/... ./web/...

thorough:
	@THOROUGH=1 scripts/test.sh -v -timeout 60m -run 'TestEveryForm|TestEveryField|TestTeachersAreLearnt|TestWhatIsKept|TestMendsOver|TestOurOwnKeeps|TestBriefsAreLaid|TestWhatIsPinned|TestAgainTouches|TestAnyCommands|TestMendsOfReal|TestGeneratedClassesFor|TestClassesLand' ./web/... ./core/review ./core/lay ./core/board ./core/adapt

mutants:
	@go run ./scripts/mutants -share $${SHARE:-1} -seed $${SEED:-1} dose timeline review solve plan run

# Rebuilding the browser files gives the same bytes; skipped, in words, where npm or its registry is missing.
assets-check:
	@command -v npm >/dev/null 2>&1 || { echo "assets-check: no npm here, skipped"; exit 0; }; \
	cd web/assets && npm ci --ignore-scripts --no-audit --no-fund --silent >/dev/null 2>&1 || { echo "assets-check: npm ci did not work here, skipped"; exit 0; }; \
	node vendor.mjs --check && \
	for f in app mover; do npx tailwindcss -i $$f.css -o /tmp/wavekine-$$f.$$$$.css --minify >/dev/null 2>&1 && \
	cmp /tmp/wavekine-$$f.$$$$.css ../static/$$f.css && rm -f /tmp/wavekine-$$f.$$$$.css || exit 1; done

check:
	@test -z "$$(go tool gofumpt -l *.go cmd core demo draw post schema store web)" || { echo "not formatted:"; go tool gofumpt -l *.go cmd core demo draw post schema store web; exit 1; }
	@go vet $(FLAGS) ./...
	@go tool staticcheck -tags nomsgpack ./...

shots:
	@SHOTS=$(CURDIR)/docs/screenshots scripts/test.sh -count=1 -run TestScreenshots ./web

bench:
	@go test -run xxx -bench . -benchmem ./core/... ./draw/

# the library as the program reads it, out of core/movement/data
library:
	@go test $(FLAGS) ./core/movement -run TestShippedIsTheSource -write

assets:
	@cd web/assets && npm ci --ignore-scripts --no-audit --no-fund && npm run vendor && npm run css

# the licence texts of the Go modules that are compiled in
licences:
	@go run ./scripts/licences

stop:
	@scripts/pg.sh stop
