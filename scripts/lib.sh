# Shared by the commands: where things are, and how to speak plainly. Source it; do not run it.
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
DATA=${VATTEN_DATA:-$ROOT/.data}

# As root, PostgreSQL runs as another user, which must reach its folder: a checkout under /root keeps
# its data in /var/lib instead.
choose_data() {
  [ -n "${VATTEN_DATA:-}" ] || [ "$(id -u)" != 0 ] && return 0
  runuser -u postgres -- test -x "$ROOT" 2>/dev/null || DATA=/var/lib/vatten
}

say() { printf '%s\n' "$*"; }
fail() { printf 'vatten: %s\n' "$*" >&2; exit 1; }

# Runs a command as root: directly, or through sudo where that needs no password.
as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"
  elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then sudo -n "$@"
  else return 1
  fi
}

# Installs Debian packages that are missing: need COMMAND-OR-FILE PACKAGE ... pairs.
need() {
  local missing=()
  while [ $# -gt 1 ]; do
    command -v "$1" >/dev/null 2>&1 || [ -e "$1" ] || missing+=("$2")
    shift 2
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  say "Installing: ${missing[*]}"
  # Debian starts a cluster of its own on installing PostgreSQL; ours is private, so none is wanted.
  as_root env DEBIAN_FRONTEND=noninteractive sh -c \
    'apt-get update -qq && apt-get install -y -qq --no-install-recommends "$@"' sh "${missing[@]}" >/tmp/vatten-install.$$ 2>&1 \
    || { tail -n 5 /tmp/vatten-install.$$ >&2; fail "could not install ${missing[*]}. As root: apt-get install ${missing[*]}"; }
  rm -f /tmp/vatten-install.$$
}

postgres_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1 || true; }

# The user PostgreSQL runs as: it refuses root.
postgres_user() { if [ "$(id -u)" = 0 ]; then echo postgres; else id -un; fi; }

as_postgres() {
  if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi
}

# True when something already listens on this loopback port.
port_taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

# From below 32768: a port that connections take by themselves may be held by one for a minute after it ended.
free_port() {
  local p
  for p in $(seq "$1" $(($1 + 200))); do port_taken "$p" || { echo "$p"; return; }; done
  fail "no free port found from $1 on"
}

# postgres_start DIR PORT keep|throwaway: makes the cluster when it is not there and starts it on
# loopback only. Prints nothing; fails with one line.
postgres_start() {
  local dir=$1 port=$2 kind=$3 bin log
  bin=$(postgres_bin)
  [ -n "$bin" ] || fail "PostgreSQL is not installed (package postgresql)"
  mkdir -p "$dir"
  if [ "$(id -u)" = 0 ]; then
    # The postgres user must be able to reach its folder through the parents.
    runuser -u postgres -- test -x "$(dirname "$dir")" 2>/dev/null || chmod o+x "$(dirname "$dir")"
    chown postgres "$dir"
  fi
  chmod 700 "$dir"
  log=$dir/server.log
  if [ ! -s "$dir/db/PG_VERSION" ]; then
    if [ "$kind" = keep ]; then
      [ -s "$dir/password" ] || (umask 077; head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n' >"$dir/password")
      [ "$(id -u)" = 0 ] && chown postgres "$dir/password"
      as_postgres "$bin/initdb" -D "$dir/db" -U vatten --auth=scram-sha-256 --pwfile="$dir/password" -E UTF8 --locale=C.UTF-8 >/dev/null \
        || fail "could not make the database in $dir"
    else
      as_postgres "$bin/initdb" -D "$dir/db" -U vatten --auth=trust --no-sync -E UTF8 --locale=C.UTF-8 >/dev/null \
        || fail "could not make the test database in $dir"
    fi
  fi
  local extra="-c listen_addresses=127.0.0.1 -c port=$port -c unix_socket_directories='' -c max_connections=120"
  [ "$kind" = throwaway ] && extra="$extra -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
  as_postgres "$bin/pg_ctl" -D "$dir/db" -l "$log" -o "$extra" -w -t 60 start >/dev/null 2>&1 \
    || fail "PostgreSQL did not start; see $log"
}

postgres_stop() {
  local bin; bin=$(postgres_bin)
  as_postgres "$bin/pg_ctl" -D "$1/db" -m fast -w stop >/dev/null 2>&1 || true
}

postgres_running() { as_postgres "$(postgres_bin)/pg_ctl" -D "$1/db" status >/dev/null 2>&1; }

need_tools() {
  command -v cargo >/dev/null 2>&1 || fail "Rust is needed (cargo is not on the PATH)"
  command -v npm >/dev/null 2>&1 || fail "Node.js with npm is needed (npm is not on the PATH)"
  need cc gcc "$(postgres_bin || true)/initdb" postgresql psql postgresql-client
}

need_browser() { need chromium chromium chromedriver chromium-driver; }

# Installs the front end's packages exactly as locked, unless they are there already.
install_web() {
  local stamp=$ROOT/web/node_modules/.vatten-lock
  cmp -s "$ROOT/web/package-lock.json" "$stamp" && return 0
  say "Installing the front end's packages."
  (cd "$ROOT/web" && npm ci --no-audit --no-fund --loglevel=error) || fail "npm ci failed; see above"
  cp "$ROOT/web/package-lock.json" "$stamp"
}

build_web() {
  install_web
  local built=$ROOT/web/dist/index.html
  if [ -e "$built" ] && [ -z "$(find "$ROOT/web/src" "$ROOT/web/public" "$ROOT/web/index.html" "$ROOT/web/vite.config.ts" "$ROOT/web/package-lock.json" -newer "$built" -print -quit)" ]; then
    return 0
  fi
  say "Building the front end."
  (cd "$ROOT/web" && npx --no-install vite build --logLevel warn) || fail "the front end did not build; see above"
}
