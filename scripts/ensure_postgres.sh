#!/bin/sh
# Make sure PostgreSQL's programs are on this machine; Debian's package when there are none. The tests start a server of
# their own with them; none is left running.
set -e
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 && exit 0
command -v initdb >/dev/null 2>&1 && exit 0
if [ "$(id -u)" = 0 ]; then as=""; elif command -v sudo >/dev/null 2>&1; then as="sudo"; else
  echo "The tests of a logbook on a server need PostgreSQL: install the package postgresql, then run this again." >&2
  exit 1
fi
echo "Installing PostgreSQL for the tests."
$as apt-get update -qq
$as mkdir -p /etc/postgresql-common
# No server of the machine's own: the package would make one and start it.
[ -e /etc/postgresql-common/createcluster.conf ] || echo "create_main_cluster = false" | $as tee /etc/postgresql-common/createcluster.conf >/dev/null
DEBIAN_FRONTEND=noninteractive $as apt-get install -y -qq --no-install-recommends postgresql >/dev/null
