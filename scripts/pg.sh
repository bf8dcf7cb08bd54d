#!/bin/sh
# pg.sh - the product's own PostgreSQL cluster, on loopback, apart from any other on the machine.
#
#   pg.sh up       create if missing, start, wait until it answers, make role and database
#   pg.sh stop     stop; no error if it is not running
#   pg.sh status   exit 0 if it is up, 3 if not
#   pg.sh url      print the connection URL for the application (it holds the password)
#   pg.sh key      print the key that hides the links in letters, made once; it is not in the database
#   pg.sh destroy  stop and delete everything in the data folder
#
# Settings (environment):
#   WAVEKINE_DATA     folder of the cluster (root: /var/lib/wavekine, else ~/.local/state/wavekine)
#   WAVEKINE_PG_PORT  its port; without it a free one is chosen when the cluster is made
#   PG_FAST=1         throw-away data: no syncing (the tests)      PG_CREATEDB=1  may create databases
#
# The superuser has no password and comes in only over the socket, by the account that owns the
# cluster. The application comes in over 127.0.0.1 with a random password. Nothing is trusted.
set -eu
umask 077
unset PGHOST PGHOSTADDR PGPORT PGUSER PGPASSWORD PGPASSFILE PGDATABASE PGDATA PGSERVICE PGSERVICEFILE PGOPTIONS PGSSLMODE 2>/dev/null || :
export LC_ALL=C.UTF-8
die() { printf 'wavekine: %s\n' "$*" >&2; exit 1; }

ME=$(id -un 2>/dev/null) || die "this account has no name in the password database; PostgreSQL needs one"
if [ "$(id -u)" = 0 ]; then
  OSUSER=postgres; BASE=${WAVEKINE_DATA:-/var/lib/wavekine}
  id -u "$OSUSER" >/dev/null 2>&1 || die "there is no account '$OSUSER': apt-get install postgresql makes it"
  as_pg() { runuser -u "$OSUSER" -- "$@"; }
else
  OSUSER=$ME; BASE=${WAVEKINE_DATA:-${XDG_STATE_HOME:-$HOME/.local/state}/wavekine}
  as_pg() { "$@"; }
fi
CREATEDB=NOCREATEDB; [ "${PG_CREATEDB:-0}" = 1 ] && CREATEDB=CREATEDB
FAST=${PG_FAST:-0}; ROLE=wavekine; DB=wavekine
case $BASE in /|//*) die "WAVEKINE_DATA must be a folder of its own" ;; /*) ;; *) die "WAVEKINE_DATA must be an absolute path: $BASE" ;; esac
case $BASE in *[!A-Za-z0-9_./-]*) die "WAVEKINE_DATA may hold only letters, digits and _ . / -: $BASE" ;; esac
case ${WAVEKINE_PG_PORT:-1} in *[!0-9]*) die "WAVEKINE_PG_PORT must be a number" ;; esac

BIN=
for d in $(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -Vr); do
  if [ -x "$d/initdb" ] && [ -x "$d/postgres" ]; then BIN=$d; break; fi
done
DATA=$BASE/data; RUN=$BASE/run; LOG=$BASE/log; SECRET=$BASE/app.password; PORTFILE=$BASE/port
if [ -s "$DATA/PG_VERSION" ]; then # stay with the version that made the data
  v=$(cat "$DATA/PG_VERSION")
  [ -x "/usr/lib/postgresql/$v/bin/postgres" ] || die "the data in $BASE was made by PostgreSQL $v, which is not installed: apt-get install postgresql-$v"
  BIN=/usr/lib/postgresql/$v/bin
fi
[ -n "$BIN" ] || die "no PostgreSQL server found: apt-get install postgresql"

taken() { command -v python3 >/dev/null 2>&1 && ! python3 -c "import socket,sys; s=socket.socket(); s.setsockopt(socket.SOL_SOCKET,socket.SO_REUSEADDR,1); s.bind(('127.0.0.1',int(sys.argv[1])))" "$1" 2>/dev/null || grep -qi "0100007F:$(printf %04X "$1") .* 0A " /proc/net/tcp; }
remembered() { PORT=${WAVEKINE_PG_PORT:-$(cat "$PORTFILE" 2>/dev/null || :)}; }
choose() { # a free port below 32768, where no client socket of this machine can sit
  [ -n "$PORT" ] && return 0
  for p in $(shuf -i 20000-32000 -n 40); do taken "$p" || { PORT=$p; break; }; done
  [ -n "$PORT" ] || die "no free port between 20000 and 32000"
}

# A killed server can stay a zombie for a second; pg_ctl takes a zombie for alive.
settle() {
  pid=$(head -n 1 "$DATA/postmaster.pid" 2>/dev/null) || return 0
  i=0; while [ $i -lt 25 ] && grep -q '^State:[[:space:]]*Z' "/proc/$pid/status" 2>/dev/null; do sleep 0.2; i=$((i+1)); done
}
running() { [ -d "$DATA" ] || return 1; settle; as_pg "$BIN/pg_ctl" status -D "$DATA" >/dev/null 2>&1; }

lock() {
  [ ! -L "$BASE" ] || die "$BASE is a symbolic link"
  (umask 022; mkdir -p "$(dirname "$BASE")") 2>/dev/null || die "cannot make $(dirname "$BASE"): choose another folder with WAVEKINE_DATA"
  (umask 066; mkdir -p "$BASE") 2>/dev/null || die "cannot make $BASE: choose another folder with WAVEKINE_DATA"
  [ "$(stat -c %U "$BASE")" = "$ME" ] || die "$BASE belongs to $(stat -c %U "$BASE"), not to $ME: choose another folder with WAVEKINE_DATA"
  if [ ! -e "$BASE/.wavekine" ] && [ -n "$(ls -A "$BASE")" ]; then die "$BASE is not empty and was not made by wavekine"; fi
  chmod 0711 "$BASE"
  exec 9>> "$BASE/.wavekine"; flock -w 120 9 || die "another start holds $BASE/.wavekine"
}

create() {
  for d in "$RUN" "$LOG"; do
    [ -d "$d" ] || mkdir "$d"
    [ "$ME" = "$OSUSER" ] || chown "$OSUSER:" "$d"
  done
  as_pg test -w "$RUN" 2>/dev/null || die "the account '$OSUSER' cannot reach $RUN: a folder above it is closed to it (namei -l $RUN shows which); choose another folder with WAVEKINE_DATA"
  sock=$RUN/.s.PGSQL.$PORT; [ ${#sock} -le 107 ] || die "the path $BASE is too long for a socket: choose a shorter WAVEKINE_DATA"
  [ -s "$DATA/PG_VERSION" ] && return 0
  [ ! -e "$DATA" ] || die "$DATA exists but is not complete; look at it, then: scripts/pg.sh destroy"
  new=$BASE/new; rm -rf "$new"; mkdir "$new"
  [ "$ME" = "$OSUSER" ] || chown "$OSUSER:" "$new"
  nosync=; [ "$FAST" = 1 ] && nosync=--no-sync
  as_pg "$BIN/initdb" -D "$new" -U postgres -E UTF8 --locale=C.UTF-8 --data-checksums \
    --auth-local=peer --auth-host=scram-sha-256 $nosync > "$BASE/initdb.out" 2>&1 || { cat "$BASE/initdb.out" >&2; die "the database could not be made"; }
  as_pg tee "$new/pg_hba.conf" >/dev/null <<HBA
local all postgres peer map=owner
host all postgres 0.0.0.0/0 reject
host all all 127.0.0.1/32 scram-sha-256
HBA
  echo "owner $OSUSER postgres" | as_pg tee "$new/pg_ident.conf" >/dev/null
  echo "include_if_exists 'wavekine.conf'" | as_pg tee -a "$new/postgresql.conf" >/dev/null
  mv -T "$new" "$DATA" # a killed initdb never leaves half a cluster
}

configure() {
  { cat <<CONF
listen_addresses = '127.0.0.1'
port = $PORT
unix_socket_directories = '$RUN'
unix_socket_permissions = 0700
password_encryption = scram-sha-256
timezone = 'UTC'
log_timezone = 'UTC'
max_connections = 60
shared_buffers = 64MB
log_min_duration_statement = 500
CONF
    [ "$FAST" != 1 ] || printf '%s\n' 'fsync = off' 'synchronous_commit = off' 'full_page_writes = off' 'wal_level = minimal' 'max_wal_senders = 0'
  } | as_pg tee "$DATA/wavekine.conf" >/dev/null
}

serve() { # started, if it does not run
  if running; then
    p=$(sed -n 4p "$DATA/postmaster.pid")
    [ "$p" = "$PORT" ] || die "the database is already running on port $p, not $PORT: scripts/pg.sh stop first, or leave WAVEKINE_PG_PORT out"
  else
    if taken "$PORT"; then
      [ -z "${WAVEKINE_PG_PORT:-}" ] || die "port $PORT is taken by another program: choose another WAVEKINE_PG_PORT"
      PORT=; choose # the remembered port went to somebody else
    fi
    configure
    ok=
    for try in 1 2 3; do # again for the shared memory of a killed server
      # 9>&-: the server must not inherit the lock
      if as_pg "$BIN/pg_ctl" start -w -t 60 -s -D "$DATA" -l "$LOG/postgres.log" 9>&- >"$BASE/start.out" 2>&1; then ok=1; break; fi
      sleep 1
    done
    [ -n "$ok" ] || { cat "$BASE/start.out" >&2; as_pg tail -n 15 "$LOG/postgres.log" >&2; die "the database did not start (log: $LOG/postgres.log)"; }
  fi
}

up() {
  lock; remembered; choose; create; serve
  echo "$PORT" > "$PORTFILE"
  if [ ! -s "$SECRET" ]; then
    od -An -N24 -tx1 /dev/urandom | tr -d ' \n' > "$SECRET.new"; mv "$SECRET.new" "$SECRET"
  fi
  # A server killed a moment ago still counts as running while its processes go: ask again.
  for try in 1 2 3; do
    if account >"$BASE/account.out" 2>&1; then return 0; fi
    sleep 1; serve
  done
  cat "$BASE/account.out" >&2; die "the database runs but does not take its account (log: $LOG/postgres.log)"
}

# The application's role and database.
# By standard input, so that the password is on no command line, and kept out of the log.
account() {
  { echo "SET log_min_error_statement = panic; SET log_min_duration_statement = -1;"
    echo "SELECT 'CREATE ROLE $ROLE LOGIN' WHERE NOT EXISTS (SELECT FROM pg_roles WHERE rolname='$ROLE') \\gexec"
    echo "ALTER ROLE $ROLE LOGIN NOSUPERUSER NOCREATEROLE $CREATEDB PASSWORD '$(cat "$SECRET")';"
    echo "SELECT 'CREATE DATABASE $DB OWNER $ROLE' WHERE NOT EXISTS (SELECT FROM pg_database WHERE datname='$DB') \\gexec"
  } | as_pg "$BIN/psql" -X -q -v ON_ERROR_STOP=1 -h "$RUN" -p "$PORT" -U postgres -d postgres -f -
}

case ${1:-} in
  up)      cd /; up ;;
  stop)    cd /; [ -d "$DATA" ] || exit 0; lock; running || exit 0; as_pg "$BIN/pg_ctl" stop -w -t 60 -s -m fast -D "$DATA" ;;
  status)  cd /; running || exit 3 ;;
  url)     remembered; [ -s "$SECRET" ] || die "there is no database yet"
           printf 'postgres://%s:%s@127.0.0.1:%s/%s?sslmode=disable\n' "$ROLE" "$(cat "$SECRET")" "$PORT" "$DB" ;;
  key)     [ -d "$BASE" ] || die "there is no database yet"
           [ -s "$BASE/letter.key" ] || { od -An -N32 -tx1 /dev/urandom | tr -d ' \n' > "$BASE/letter.key.new"; mv "$BASE/letter.key.new" "$BASE/letter.key"; }
           cat "$BASE/letter.key"; echo ;;
  destroy) cd /; [ -f "$BASE/.wavekine" ] || { [ -e "$BASE" ] && die "$BASE was not made by wavekine"; exit 0; }
           lock; ! running || as_pg "$BIN/pg_ctl" stop -w -t 60 -s -m fast -D "$DATA"; rm -rf "$BASE" ;;
  *)       die "usage: pg.sh up|stop|status|url|key|destroy" ;;
esac
