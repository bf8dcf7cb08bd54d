# make run    install what is missing, start the database, load the demo, serve on 127.0.0.1:8080 (PORT changes it)
# make test   everything, the browser tests too, on a database of its own
# make shots  retake docs/screenshots from the demo data
SHELL := /bin/sh
FLAGS := -trimpath -tags=nomsgpack
export CGO_ENABLED ?= 0

.PHONY: run build test check shots bench assets stop
run:
	@scripts/run.sh

build:
	@go build $(FLAGS) -o bin/wavekine ./cmd/wavekine

test: check
	@scripts/test.sh ./...

check:
	@test -z "$$(go tool gofumpt -l *.go cmd core demo draw schema store web)" || { echo "not formatted:"; go tool gofumpt -l *.go cmd core demo draw schema store web; exit 1; }
	@go vet $(FLAGS) ./...
	@go tool staticcheck -tags nomsgpack ./...

shots:
	@SHOTS=$(CURDIR)/docs/screenshots scripts/test.sh -count=1 -run TestScreenshots ./web

bench:
	@go test -run xxx -bench . -benchmem ./core/... ./draw/

assets:
	@cd web/assets && npm ci --no-audit --no-fund && npm run vendor && npm run css

stop:
	@scripts/pg.sh stop
