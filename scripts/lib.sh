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

# Lowest versions that work.
NEED_RUST=1.95
NEED_NODE=20.19

# at_least HAVE NEED: compares versions.
at_least() { [ "$(printf '%s\n%s\n' "$2" "$1" | sort -V | head -n 1)" = "$2" ]; }

# The version of a tool, or nothing.
version_of() { "$@" --version 2>/dev/null | grep -oE '[0-9]+\.[0-9]+(\.[0-9]+)?' | head -n 1 || true; }

# candidate PACKAGE: the version Debian would install, or nothing.
candidate() { apt-cache policy "$1" 2>/dev/null | sed -n 's/^  Candidate: \([0-9][0-9.]*\).*/\1/p'; }

# fetch ADDRESS FILE: true when it is there afterwards.
fetch() {
  if command -v curl >/dev/null 2>&1; then curl -fsSL --connect-timeout 10 --retry 2 -o "$2" "$1"
  elif command -v wget >/dev/null 2>&1; then wget -q -T 10 -t 2 -O "$2" "$1"
  else return 1
  fi
}

# Rust from Debian's rustup where there is one, else by the toolchain's own installer.
get_rust() {
  export PATH="$HOME/.cargo/bin:$PATH"
  command -v cargo >/dev/null 2>&1 && return 0
  if [ -n "$(candidate rustup)" ] && as_root true; then
    need rustup rustup
    rustup default stable >/dev/null 2>&1 && return 0
  fi
  say "Installing Rust."
  local installer; installer=$(mktemp)
  fetch https://sh.rustup.rs "$installer" && sh "$installer" -y -q --profile minimal -c clippy -c rustfmt >/dev/null 2>&1 || true
  rm -f "$installer"
  command -v cargo >/dev/null 2>&1
}

# Node.js from Debian where it is new enough, else as its makers build it, into .tools.
get_node() {
  local tools=$ROOT/.tools/node machine archive
  if [ -x "$tools/bin/npm" ]; then export PATH="$tools/bin:$PATH"; return 0; fi
  if at_least "$(candidate nodejs | grep . || echo 0)" "$NEED_NODE" && as_root true; then
    need node nodejs npm npm
    return 0
  fi
  say "Installing Node.js."
  case $(uname -m) in x86_64) machine=x64 ;; aarch64) machine=arm64 ;; *) return 1 ;; esac
  archive=$(mktemp)
  fetch https://nodejs.org/dist/latest-v22.x/SHASUMS256.txt "$archive" || { rm -f "$archive"; return 1; }
  local line sum name
  line=$(grep "linux-$machine.tar.xz" "$archive" | head -n 1)
  read -r sum name <<<"$line"
  fetch "https://nodejs.org/dist/latest-v22.x/$name" "$archive" && echo "$sum  $archive" | sha256sum -c --quiet - \
    && mkdir -p "$tools" && tar -xJf "$archive" -C "$tools" --strip-components=1 || { rm -f "$archive"; return 1; }
  rm -f "$archive"
  export PATH="$tools/bin:$PATH"
}

need_tools() {
  local have
  have=$(version_of cargo)
  [ -n "$have" ] || { get_rust && have=$(version_of cargo); } \
    || fail "Rust is needed and cannot be fetched here. Type: curl --proto '=https' -sSf https://sh.rustup.rs | sh -s -- -y"
  at_least "$have" "$NEED_RUST" || fail "Rust $have is too old: $NEED_RUST or newer is needed. Type: rustup update stable"
  have=$(version_of node)
  at_least "${have:-0}" "$NEED_NODE" && command -v npm >/dev/null 2>&1 || { get_node && have=$(version_of node); } \
    || fail "Node.js $NEED_NODE or newer with npm is needed${have:+ (this is $have)} and cannot be fetched here. Type, as root: apt-get install nodejs npm"
  at_least "$have" "$NEED_NODE" || fail "Node.js $have is too old: $NEED_NODE or newer is needed, from https://nodejs.org/"
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

# build_rust TITLE ARGUMENT...: builds with cargo and says how far it is: in place on a terminal, at every tenth
# otherwise.
build_rust() {
  local title=$1 log done_ all line tenth=-1 built
  shift
  log=$(mktemp)
  set +o pipefail
  SQLX_OFFLINE=true CARGO_TERM_PROGRESS_WHEN=always CARGO_TERM_PROGRESS_WIDTH=100 cargo build --locked "$@" 2>&1 \
    | tr '\r' '\n' | tee "$log" | grep --line-buffered -oE '[0-9]+/[0-9]+: ' | while read -r line; do
      done_=${line%%/*}; all=${line#*/}; all=${all%%:*}
      if [ -t 1 ]; then printf '\r%s: %s of %s parts ' "$title" "$done_" "$all"
      elif [ $((done_ * 10 / all)) != "$tenth" ]; then tenth=$((done_ * 10 / all)); say "$title: $done_ of $all parts"
      fi
    done
  built=${PIPESTATUS[0]}
  set -o pipefail
  if [ -t 1 ]; then printf '\r\033[K'; fi
  [ "$built" = 0 ] || grep -vE '^ *(Building|Compiling|Downloaded|Downloading|Fresh) ' "$log" | tail -n 40 >&2
  rm -f "$log"
  return "$built"
}
