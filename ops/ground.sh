# The ground that ./start and ./test stand on: packages, Python, Node, the front end, and a PostgreSQL cluster of our own.
# Sourced, not run.  Everything is kept in .ground/ beside the code, except the database when run as root: PostgreSQL
# refuses to be root, and its own user may not be able to enter this folder.

set -euo pipefail
ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
GROUND="$ROOT/.ground"
VENV="$GROUND/venv"
OLDEST_PYTHON="3, 11"
OLDEST_NODE="20.19.0"
# What WeasyPrint sets paper with.
PAPER_PACKAGES=(libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0)
# What the reader of digits in photos draws on.
PHOTO_PACKAGES=(libgl1 libglib2.0-0)
mkdir -p "$GROUND"
cd "$ROOT"

say() { printf '%s\n' "$*" >&2; }

as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }

# Debian packages that are not there yet.
need_packages() {
  local missing=()
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} = 0 ] && return 0
  say "Installing ${missing[*]} …"
  as_root apt-get update -qq
  as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >&2
}

# A virtual environment that holds exactly what the lock files name.
need_python() {
  command -v python3 >/dev/null || need_packages python3
  python3 -c "import sys; sys.exit(sys.version_info < ($OLDEST_PYTHON))" || { say "Python 3.11 or newer is needed."; exit 1; }
  if [ ! -x "$VENV/bin/python" ]; then
    python3 -c 'import ensurepip, venv' 2>/dev/null || need_packages python3-venv
    python3 -m venv "$VENV"
  fi
  local lock stamp
  for lock in "$@"; do
    stamp="$GROUND/$(basename "$lock").stamp"
    cmp -s "$lock" "$stamp" && continue
    say "Installing Python packages ($(basename "$lock" .lock)) …"
    "$VENV/bin/python" -m pip install -q --disable-pip-version-check --require-hashes -r "$lock" >&2
    cp "$lock" "$stamp"
  done
  export PATH="$VENV/bin:$PATH" PYTHONPATH="$ROOT"
}

node_is_new_enough() {
  command -v node >/dev/null && command -v npm >/dev/null &&
    [ "$(printf '%s\n' "$OLDEST_NODE" "$(node --version | tr -d v)" | sort -V | head -n 1)" = "$OLDEST_NODE" ]
}

need_node() {
  node_is_new_enough || need_python requirements/node.lock
  if ! cmp -s web/package-lock.json "$GROUND/package-lock.stamp" || [ ! -d web/node_modules ]; then
    say "Installing front-end packages …"
    (cd web && npm ci --silent >&2)
    cp web/package-lock.json "$GROUND/package-lock.stamp"
  fi
}

# The built front end, made again when anything it is made of has changed.
need_web() {
  local now
  now="$(cd web && find src public index.html package-lock.json vite.config.ts -type f -print0 2>/dev/null | sort -z | xargs -0 sha256sum | sha256sum)"
  [ -f web/dist/index.html.br ] && [ "$now" = "$(cat "$GROUND/web.stamp" 2>/dev/null)" ] && return 0
  need_node
  say "Building the front end …"
  (cd web && npx --no-install vite build --logLevel warn >&2)
  # Kept small beside each file, so that serving it takes no time.
  "$VENV/bin/python" -m whitenoise.compress -q web/dist png jpg woff woff2
  printf '%s' "$now" > "$GROUND/web.stamp"
}

free_port() { python3 -c 'import socket; s = socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])'; }

secret() { python3 -c 'import secrets; print(secrets.token_urlsafe(48))'; }

as_postgres() { if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi; }

# need_cluster FOLDER [OPTION …]: a running cluster in FOLDER on a loopback port; sets FT_DB_PORT, the passwords of the owner and of the
# application's role (FT_DB_PASSWORD, FT_DB_APP_PASSWORD), and
# CLUSTER_STARTED when it was not running before.
need_cluster() {
  local folder="$1" bin
  shift
  need_packages postgresql
  bin="$(printf '%s\n' /usr/lib/postgresql/*/bin | sort -V | tail -n 1)"
  CLUSTER="$folder/cluster" PG_CTL="$bin/pg_ctl" CLUSTER_STARTED=""
  mkdir -p "$folder"
  chmod 711 "$folder"
  [ -f "$folder/password" ] || (umask 077 && secret > "$folder/password")
  [ -f "$folder/app-password" ] || (umask 077 && secret > "$folder/app-password")
  FT_DB_PASSWORD="$(cat "$folder/password")"
  FT_DB_APP_PASSWORD="$(cat "$folder/app-password")"
  if [ ! -f "$CLUSTER/PG_VERSION" ]; then
    rm -rf "$CLUSTER" && mkdir -p "$CLUSTER"
    [ "$(id -u)" = 0 ] && chown postgres "$CLUSTER"
    local pass
    pass="$(mktemp)"
    printf '%s\n' "$FT_DB_PASSWORD" > "$pass"
    [ "$(id -u)" = 0 ] && chown postgres "$pass"
    as_postgres "$bin/initdb" -D "$CLUSTER" -U fieldtally --pwfile="$pass" --auth=scram-sha-256 -E UTF8 --locale=C.UTF-8 >/dev/null
    rm -f "$pass"
  fi
  if ! as_postgres "$PG_CTL" -D "$CLUSTER" status >/dev/null 2>&1; then
    FT_DB_PORT="$(free_port)"
    as_postgres "$PG_CTL" -D "$CLUSTER" -w -s -l "$CLUSTER/log" \
      -o "-p $FT_DB_PORT -c listen_addresses=127.0.0.1 -c unix_socket_directories= $*" start
    CLUSTER_STARTED=1
  fi
  FT_DB_PORT="$(as_postgres sed -n 4p "$CLUSTER/postmaster.pid")"
  export FT_DB_PORT FT_DB_PASSWORD FT_DB_APP_PASSWORD
  # For the test that restarts the database under the server.
  export FT_CLUSTER="$CLUSTER" FT_PG_CTL="$PG_CTL"
}

stop_cluster() {
  [ -n "${CLUSTER_STARTED:-}" ] && as_postgres "$PG_CTL" -D "$CLUSTER" -m fast -w -s stop || true
}

# Where what people enter is kept.
kept_folder() {
  if [ "$(id -u)" = 0 ]; then
    printf '/var/lib/field-tally/%s' "$(printf '%s' "$ROOT" | sha256sum | cut -c1-12)"
  else
    printf '%s/kept' "$GROUND"
  fi
}

# From here on as the application's own role, which cannot undo a record; the owner's password is forgotten.
as_application() {
  export FT_DB_USER=fieldtally_app FT_DB_PASSWORD="$FT_DB_APP_PASSWORD"
  unset FT_DB_APP_PASSWORD
}
