# Sourced by bin/demo, bin/test and bin/screenshots: installs what is missing, and does nothing when nothing is.
# Needs Python 3.11, Node 20.19 or later, and, where Debian packages are missing, root.
# Usage: . bin/install.sh; install_all [DEBIAN_PACKAGE…]

say() { printf '%s\n' "$*" >&2; }

digest_of() { # of files that are named, or of folders' tracked kinds of sources
  find "$@" -type f \( -name node_modules -o -name __pycache__ -o -name dist \) -prune -o -type f \
    \( -name '*.py' -o -name '*.ts' -o -name '*.tsx' -o -name '*.css' -o -name '*.json' -o -name '*.html' -o -name '*.lock' \
    -o -name '*.js' -o -name '*.svg' \) -not -path '*/node_modules/*' -not -path '*/dist/*' -not -path '*/__pycache__/*' \
    -not -name 'openapi.json' -not -name 'schema.d.ts' -not -name 'rules.json' -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -c1-16
}

unchanged() { [ -f "$1" ] && [ "$(cat "$1")" = "$2" ]; } # STAMP DIGEST

as_root_needed() {
  [ "$(id -u)" = 0 ] || { say "These Debian packages are missing, and installing them needs root: $*"; exit 1; }
}

install_debian() {
  local missing=() package
  for package in "$@"; do
    [ "$(dpkg-query -W -f '${Status}' "$package" 2>/dev/null)" = "install ok installed" ] || missing+=("$package")
  done
  [ ${#missing[@]} = 0 ] && return
  as_root_needed "${missing[@]}"
  say "Installing Debian packages: ${missing[*]}"
  # the packaged database must not start a server of its own: we run ours, on our own data
  mkdir -p /etc/postgresql-common
  [ -e /etc/postgresql-common/createcluster.conf ] || echo 'create_main_cluster = false' >/etc/postgresql-common/createcluster.conf
  apt-get update -qq >/dev/null
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >var/install.log 2>&1 ||
    { tail -n 20 var/install.log >&2; exit 1; }
}

install_python() {
  local digest
  digest="$(sha256sum requirements.lock | cut -c1-16) $(python3 --version)"
  if ! unchanged .venv/lock "$digest"; then
    say "Installing Python packages"
    rm -rf .venv
    python3 -m venv .venv 2>/dev/null || { install_debian python3-venv && python3 -m venv .venv; }
    .venv/bin/python -m pip install -qq --disable-pip-version-check --require-hashes -r requirements.lock
    echo "$digest" >.venv/lock
  fi
  pwd >"$(echo .venv/lib/python3.*/site-packages)/inner_tone.pth"
}

install_web() {
  local digest
  digest="$(sha256sum web/package-lock.json | cut -c1-16) $(node --version)"
  unchanged web/node_modules/lock "$digest" && return
  say "Installing packages for the interface"
  (cd web && npm ci --no-audit --no-fund >../var/install-web.log 2>&1) || { tail -n 20 var/install-web.log >&2; return 1; }
  echo "$digest" >web/node_modules/lock
}

build_engine() {
  local digest
  digest="$(digest_of inner_tone/core/engine inner_tone/core/modules requirements.lock)"
  unchanged var/compiled/digest "$digest" && return
  local version
  say "Compiling the engine"
  version=$(.venv/bin/python -m inner_tone.core.engine.warm) # what is compiled already is only loaded
  find var/compiled -mindepth 1 -maxdepth 1 ! -name "$version" -exec rm -rf {} +
  echo "$digest" >var/compiled/digest
}

build_web() {
  local digest
  digest="$(digest_of web inner_tone/api inner_tone/core)"
  unchanged web/dist/digest "$digest" && return
  say "Building the interface"
  .venv/bin/python -m inner_tone.api.openapi web/openapi.json web/src/api/rules.json
  (cd web && npm run --silent types >/dev/null && npm run --silent build >../var/build.log) || { cat var/build.log >&2; return 1; }
  echo "$digest" >web/dist/digest
}

both() { # run two of the above side by side; fails if one of them does
  local one other status=0
  "$1" &
  one=$!
  "$2" &
  other=$!
  wait $one || status=1
  wait $other || status=1
  [ $status = 0 ] || exit 1
}

install_all() {
  umask 022
  mkdir -p var
  exec 9>var/install.lock
  flock 9
  install_debian ca-certificates util-linux postgresql-15 graphviz libpangoft2-1.0-0 libharfbuzz-subset0 fonts-dejavu-core "$@"
  both install_python install_web
  both build_engine build_web
  flock -u 9
  exec 9>&-
}
