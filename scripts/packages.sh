#!/bin/sh
# packages.sh PACKAGE... installs what is missing from Debian's packages, with progress in words.
set -eu
missing=
for p in "$@"; do
  dpkg-query -W -f '${Status}' "$p" 2>/dev/null | grep -q 'install ok installed' || missing="$missing $p"
done
[ -n "$missing" ] || exit 0
echo "Installing from Debian's packages:$missing"
sudo=
if [ "$(id -u)" != 0 ]; then
  command -v sudo >/dev/null 2>&1 || { echo "wavekine: these packages are missing and only root can install them:$missing" >&2; exit 1; }
  sudo=sudo
fi
export DEBIAN_FRONTEND=noninteractive
# A fresh postgresql-common would start a cluster of its own; this product brings its own.
if [ ! -e /etc/postgresql-common/createcluster.conf ] && [ "$(id -u)" = 0 ]; then
  mkdir -p /etc/postgresql-common; echo 'create_main_cluster = false' > /etc/postgresql-common/createcluster.conf
fi
log=$(mktemp)
install() { $sudo apt-get install -y -q --no-install-recommends -o Dpkg::Options::=--force-confold $missing >"$log" 2>&1; }
if ! install; then
  echo "Refreshing the package lists"
  $sudo apt-get update -q >>"$log" 2>&1 || { tail -n 5 "$log" >&2; echo "wavekine: the package lists could not be refreshed; is there a network?" >&2; exit 1; }
  install || { tail -n 15 "$log" >&2; echo "wavekine: a package could not be installed:$missing" >&2; exit 1; }
fi
rm -f "$log"
