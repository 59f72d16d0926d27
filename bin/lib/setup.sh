# Sourced by the commands in bin/: brings a fresh Debian 12 machine to where the Python code can run.
# Every step is skipped when its result is already there, so a second call costs well under a second.
set -euo pipefail
ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/../.." && pwd -P)"
PY="$ROOT/.venv/bin/python"
export PYTHONPATH="$ROOT${PYTHONPATH:+:$PYTHONPATH}" UV_PYTHON_DOWNLOADS=never
unset PYTHONDONTWRITEBYTECODE # without compiled modules every start would compile numpy, scipy and SQLAlchemy again

say() { printf '%s\n' "$*" >&2; }
fail() { say "parts-almanac: $*"; exit 1; }

# debian PACKAGE...: install what is missing, as root; otherwise name it and the command that cures it.
debian() {
  local missing=()
  for package in "$@"; do
    [ "$(dpkg-query -W -f '${db:Status-Status}' "$package" 2>/dev/null)" = installed ] || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  [ "$(id -u)" -eq 0 ] || fail "missing Debian packages: ${missing[*]} (as root: apt-get install ${missing[*]})"
  say "Installing Debian packages: ${missing[*]}"
  apt-get -qq update >&2 || fail "apt-get update failed; is a package mirror reachable?"
  DEBIAN_FRONTEND=noninteractive apt-get -qq install -y --no-install-recommends "${missing[@]}" >&2 \
    || fail "apt-get could not install: ${missing[*]}"
}

tools() {
  command -v python3 >/dev/null || fail "python3 is missing: install Python 3.11 or newer"
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || fail "$(python3 --version) is too old: Python 3.11 or newer is needed"
  command -v node >/dev/null && command -v npm >/dev/null || fail "node or npm is missing: install Node.js 20 or newer"
  [ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ] || fail "node $(node --version) is too old: Node.js 20 or newer is needed"
}

hash_of() { (cd "$ROOT" && find "$@" -type f -print0 | LC_ALL=C sort -z | xargs -0 sha256sum | sha256sum | cut -c1-32); }

# up_to_date STAMP HASH: true when the step that wrote STAMP ran for exactly this input.
up_to_date() { [ -f "$1" ] && [ "$(cat "$1")" = "$2" ]; }

python_environment() {
  local stamp="$ROOT/.venv/.lock-hash" wanted
  wanted="$(hash_of requirements.lock)"
  up_to_date "$stamp" "$wanted" && return 0
  say "Installing the Python packages of requirements.lock"
  if [ ! -x "$PY" ]; then
    python3 -c 'import ensurepip, venv' 2>/dev/null || debian python3-venv
    python3 -m venv "$ROOT/.venv" || fail "could not create $ROOT/.venv"
  fi
  [ -x "$ROOT/.venv/bin/uv" ] || "$PY" -m pip install --quiet --disable-pip-version-check "uv==$(sed -n 's/^uv==\([^ ]*\).*/\1/p' "$ROOT/requirements.lock")" >&2
  "$ROOT/.venv/bin/uv" pip sync --quiet --compile-bytecode --python "$PY" --require-hashes "$ROOT/requirements.lock" >&2 || fail "the Python packages could not be installed"
  printf '%s' "$wanted" >"$stamp"
}

node_packages() {
  local stamp="$ROOT/frontend/node_modules/.lock-hash" wanted
  wanted="$(hash_of frontend/package-lock.json)"
  up_to_date "$stamp" "$wanted" && return 0
  say "Installing the front-end packages of package-lock.json"
  (cd "$ROOT/frontend" && npm ci --silent --no-audit --no-fund >&2) || fail "npm ci failed in frontend/"
  printf '%s' "$wanted" >"$stamp"
}

frontend_build() {
  node_packages
  local stamp="$ROOT/frontend/dist/.source-hash" wanted
  wanted="$(hash_of frontend/src frontend/index.html frontend/vite.config.ts frontend/package-lock.json)"
  up_to_date "$stamp" "$wanted" && return 0
  say "Building the front end"
  (cd "$ROOT/frontend" && npx --no-install vite build --logLevel warn >&2) || fail "the front end did not build"
  printf '%s' "$wanted" >"$stamp"
}

setup() {
  tools
  debian postgresql libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 "$@" # the last three print PDF
  python_environment
}
