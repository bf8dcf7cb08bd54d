#!/bin/sh
# run.sh - make run: packages, database, program, demo data, server.
set -eu
cd "$(dirname "$0")/.."
export PORT="${PORT:-8080}"
case $PORT in *[!0-9]*) echo "wavekine: PORT must be a number" >&2; exit 1 ;; esac
command -v go >/dev/null 2>&1 || { echo "wavekine: Go is missing: see go.mod for the version" >&2; exit 1; }
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || scripts/packages.sh postgresql
[ -x bin/wavekine ] || echo "Building (the first time takes a minute or two)"
make -s build
echo "Starting the database"
scripts/pg.sh up
DATABASE_URL=$(scripts/pg.sh url); export DATABASE_URL
WAVEKINE_LETTER_KEY=${WAVEKINE_LETTER_KEY:-$(scripts/pg.sh key)}; export WAVEKINE_LETTER_KEY
bin/wavekine demo
exec bin/wavekine serve
