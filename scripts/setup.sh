#!/usr/bin/env bash
# Installs what is missing: Debian packages, and nothing that is there already.
# usage: setup.sh demo|test
set -euo pipefail
say() { echo "setup: $*" >&2; }
fail() { say "$*"; exit 1; }

need() { # need NAME MIN VERSION
  local least
  least=$(printf '%s\n%s\n' "$2" "$3" | sort -V | head -n 1)
  [ "$least" = "$2" ] || fail "$1 $3 is too old: install $1 $2 or newer (Debian's own is older)"
}
command -v go >/dev/null || fail "Go is missing: install Go 1.26 or newer (Debian's own is older)"
command -v node >/dev/null || fail "Node is missing: install Node 20.19 or newer (Debian's own is older)"
command -v npm >/dev/null || fail "npm is missing: it comes with Node 20.19 or newer"
need Go 1.26 "$(go env GOVERSION | sed 's/^go//; s/[^0-9.].*//')"
need Node 20.19 "$(node --version | sed 's/^v//')"

packages=()
[ -x /usr/sbin/mariadbd ] || command -v mariadbd >/dev/null || packages+=(mariadb-server)
if [ "${1:-demo}" = test ]; then
  command -v ngspice >/dev/null || packages+=(ngspice)
  [ -x /usr/bin/chromium ] || packages+=(chromium)
  command -v pdftoppm >/dev/null || packages+=(poppler-utils)
  /usr/bin/python3 -c "import scipy" 2>/dev/null || packages+=(python3-scipy)
fi
if [ ${#packages[@]} -gt 0 ]; then
  run=""
  if [ "$(id -u)" != 0 ]; then
    command -v sudo >/dev/null || fail "${packages[*]} missing and neither root nor sudo: ask an administrator for apt-get install ${packages[*]}"
    run=sudo
  fi
  say "installing ${packages[*]} from Debian"
  export DEBIAN_FRONTEND=noninteractive
  # An own database on an own port is used; the system's need not start.
  $run apt-get update -qq || fail "apt-get update failed: is there a network?"
  $run env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${packages[@]}" >/dev/null || fail "apt-get could not install ${packages[*]}"
fi
