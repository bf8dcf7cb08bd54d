#!/bin/bash
# Runs the tests against a throw-away cluster of their own: scripts/test.sh [go test arguments]
set -euo pipefail
cd "$(dirname "$0")/.."
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || scripts/packages.sh postgresql
scripts/packages.sh chromium fonts-liberation poppler-utils python3 python3-icalendar python3-jsonschema python3-webvtt ffmpeg glpk-utils
WAVEKINE_DATA=/tmp/wavekine-test.$$; export WAVEKINE_DATA PG_FAST=1 PG_CREATEDB=1
unset WAVEKINE_PG_PORT
trap 'scripts/pg.sh destroy' EXIT
scripts/pg.sh up
TEST_DATABASE_URL=$(scripts/pg.sh url); export TEST_DATABASE_URL
[ $# -gt 0 ] || set -- ./...
# the same build flags for tests and binary, else everything compiles twice
export CGO_ENABLED=${CGO_ENABLED:-0}
# RACE=1: the same with the race detector, which needs a C compiler; without a browser and the longest loops
if [ "${RACE:-0}" = 1 ]; then
  scripts/packages.sh gcc libc6-dev
  CGO_ENABLED=1; set -- -race -short "$@"
fi
go test -trimpath -tags=nomsgpack -timeout 12m "$@"
