# Sourced by ./start and ./test: each step does nothing when it was done before, so both work offline once set up.

say() { printf '%s\n' "$*" >&2; }

# Debian packages (the CAD kernel links with libGL and libX11); as an ordinary user without sudo it says what to ask an administrator for.
ensure_debian() {
  local missing=() name
  for name in "$@"; do
    dpkg-query -W -f '${Status}' "$name" 2>/dev/null | grep -q 'install ok installed' || missing+=("$name")
  done
  for name in python3.11 python3.11-venv; do
    [ -n "$(find_python)" ] || dpkg-query -W -f '${Status}' "$name" 2>/dev/null | grep -q 'install ok installed' || missing+=("$name")
  done
  [ ${#missing[@]} -eq 0 ] && return
  say "Installing Debian packages: ${missing[*]}"
  local as=()
  if [ "$(id -u)" -ne 0 ]; then
    if sudo -n true 2>/dev/null; then as=(sudo -n); else
      say "Some Debian packages are missing and this account may not install them. Ask an administrator to run:"
      say "  apt-get install ${missing[*]}"
      exit 1
    fi
  fi
  DEBIAN_FRONTEND=noninteractive "${as[@]}" apt-get update -qq || true
  DEBIAN_FRONTEND=noninteractive "${as[@]}" apt-get install -y -qq "${missing[@]}" > /dev/null
}

find_python() {
  local candidate
  for candidate in python3.11 /usr/bin/python3.11 python3; do
    if "$candidate" -c 'import sys, venv, ensurepip; sys.exit(sys.version_info[:2] != (3, 11))' 2> /dev/null; then
      echo "$candidate"; return
    fi
  done
}

# The virtual environment, from the lock file with its hashes: nothing else is installed than what was tried. With "test", what tests need too.
ensure_python() {
  local lock=requirements${1:+-$1}.lock wanted stamp=.venv/installed
  wanted="$(cat "$lock" pyproject.toml | sha256sum | cut -d' ' -f1)"
  if [ -f "$stamp" ] && grep -qx "$lock $wanted" "$stamp"; then return; fi
  local python; python=$(find_python)
  [ -n "$python" ] || { say "Python 3.11 with venv is needed and was not found."; exit 1; }
  [ -x .venv/bin/python ] || { say "Making the virtual environment"; "$python" -m venv .venv; }
  say "Installing Python packages"
  .venv/bin/python -m pip install -qq --disable-pip-version-check --no-deps --require-hashes -r "$lock"  # all that is needed is in it
  .venv/bin/python -m pip install -qq --disable-pip-version-check --no-deps --no-build-isolation -e .
  # What tests need holds what running needs: whichever was installed last, both are there.
  { grep -v "^$lock " "$stamp" 2> /dev/null || true; echo "$lock $wanted"; } > "$stamp.new"
  if [ "$lock" = requirements-test.lock ]; then
    echo "requirements.lock $(cat requirements.lock pyproject.toml | sha256sum | cut -d' ' -f1)" >> "$stamp.new"
  fi
  mv "$stamp.new" "$stamp"
}

# The Node of the lock file, from the Python registry: the front end is built by the same one everywhere.
ensure_node() {
  export PATH="$PWD/.venv/bin:$PATH"
  hash -r
}

# The built front end; built again when its sources or the service's description changed.
ensure_pages() {
  local wanted stamp=web/dist/built
  ensure_node
  wanted="$(find web/src web/public web/index.html web/package-lock.json web/vite.config.ts docs/openapi.json -type f ! -name schema.d.ts -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -d' ' -f1)"
  if [ ! -f web/node_modules/installed ] || ! cmp -s web/package-lock.json web/node_modules/installed; then
    say "Installing front-end packages"
    (cd web && npm ci --no-audit --no-fund --loglevel=error > /dev/null)
    cp web/package-lock.json web/node_modules/installed
  fi
  if [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ]; then return; fi
  say "Building the front end"
  (cd web && npm run -s build > /dev/null)
  echo "$wanted" > "$stamp"
}

# Pages and engine side by side: either keeps one core busy for a minute.
ensure_built() {
  ensure_engine &
  local compiling=$!
  ensure_pages
  wait "$compiling"
}

# The engine's inner loops as machine code: without it the first plan of every process would wait ten seconds for it.
ensure_engine() {
  local wanted stamp=.venv/compiled kind
  wanted="$(grep -rl njit wedgecraft --include=*.py | sort | xargs sha256sum | sha256sum | cut -d' ' -f1)"
  if [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ]; then return; fi
  say "Compiling the engine"
  for kind in plan "compute vise" "compute row"; do
    # shellcheck disable=SC2086  # two words on purpose
    .venv/bin/wedgecraft $kind "docs/examples/${kind##* }.json" > /dev/null 2>&1 || return 0
  done
  .venv/bin/python -c "from wedgecraft.core.layout import solve
solve.ready()" || return 0
  echo "$wanted" > "$stamp"
}
