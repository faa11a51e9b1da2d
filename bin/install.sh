# Sourced by bin/demo, bin/test and bin/screenshots: installs what is missing, and does nothing when nothing is.
# Needs Python 3.11, Node 20.19 or later, and, where Debian packages are missing, root.
# Usage: . bin/install.sh; install_all [DEBIAN_PACKAGE…]

unset PYTHONDONTWRITEBYTECODE # to compile all of it at each start takes seconds

say() { printf '%s\n' "$*" >&2; }

digest_of() { # of all files in folders, or that are named, but for what is written by themselves or by others
  find "$@" \( -name node_modules -o -name __pycache__ -o -name dist \) -prune -o -type f -not -name '*.pyc' \
    -not -path web/openapi.json -not -path web/src/api/schema.d.ts -not -path web/src/api/rules.json -print0 |
    sort -z | xargs -0 sha256sum | sha256sum | cut -c1-16
}

help_asked() { # ARGUMENTS…: prints what the command says of itself, if it was asked
  local one
  for one in "$@"; do
    if [ "$one" = --help ] || [ "$one" = -h ]; then
      sed -n '2,/^set /{/^#/s/^# \{0,1\}//p}' "$0"
      exit 0
    fi
  done
}

unchanged() { [ -f "$1" ] && [ "$(cat "$1")" = "$2" ]; } # STAMP DIGEST

as_root_needed() {
  [ "$(id -u)" = 0 ] || { say "These Debian packages are missing, and installing them needs root: $*"; exit 1; }
}

install_debian() {
  local missing=() package there
  there=" $(dpkg-query -W -f '${Package}=${Status} ' "$@" 2>/dev/null | sed 's/=install ok installed/!/g' || true) "
  for package in "$@"; do
    [[ "$there" == *" $package! "* ]] || missing+=("$package")
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
    # each module is compiled when it is first loaded: most never are
    .venv/bin/python -m pip install -qq --no-compile --disable-pip-version-check --require-hashes -r requirements.lock || return 1
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

build_engine() { # each part is kept under a digest of its own code: what is compiled already is only looked up
  local digest
  digest="$(digest_of inner_tone/core requirements.lock)"
  unchanged var/engine-digest "$digest" && return
  say "Compiling the engine"
  .venv/bin/python -m inner_tone.core.engine.warm || return 1
  echo "$digest" >var/engine-digest
}

write_documents() { # what the interface is generated from; it is written only where it has changed
  local digest
  digest="$(digest_of inner_tone requirements.lock)"
  unchanged var/documents-digest "$digest" && [ -f web/openapi.json ] && [ -f web/src/api/rules.json ] && return
  .venv/bin/python -m inner_tone.api.openapi web/openapi.json web/src/api/rules.json || return 1
  echo "$digest" >var/documents-digest
}

build_web() {
  local digest
  write_documents || return
  digest="$(digest_of web) $(cat web/openapi.json web/src/api/rules.json | sha256sum | cut -c1-16)"
  unchanged web/dist/digest "$digest" && return
  say "Building the interface"
  (cd web && npm run --silent types >/dev/null && npm run --silent build >../var/build.log) || { cat var/build.log >&2; return 1; }
  echo "$digest" >web/dist/digest
}

install_all() {
  umask 022
  mkdir -p var
  exec 9>var/install.lock
  flock 9
  install_debian ca-certificates util-linux postgresql-15 graphviz libpangoft2-1.0-0 libharfbuzz-subset0 fonts-dejavu-core "$@"
  local interface engine status=0
  install_web &
  interface=$!
  install_python || exit 1
  build_engine & # it needs Python's packages alone; the interface needs both kinds
  engine=$!
  wait $interface && build_web || status=1
  wait $engine || status=1
  [ $status = 0 ] || exit 1
  flock -u 9
  exec 9>&-
}
