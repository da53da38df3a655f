#!/usr/bin/env bash
# Puts the files of an installation in place, or makes a Debian package of them.
# usage: build.sh install [ROOT] | build.sh deb [FOLDER]
set -euo pipefail
cd "$(dirname "$0")/.."
say() { echo "packaging: $*" >&2; }
fail() { say "$*"; exit 1; }
made_in="${MADE_IN:-bin}"

# files ROOT: what both ways of installing have in common.
files() {
  install -D -m 0755 "${BIN:-bin/corriente}" "$1/usr/bin/corriente"
  install -D -m 0644 README.md "$1/usr/share/doc/corriente/README.md"
  install -D -m 0644 LICENSE "$1/usr/share/doc/corriente/copyright"
  install -D -m 0644 docs/installing.md "$1/usr/share/doc/corriente/installing.md"
  # What it is made of, and the notices that the licences of its parts ask for.
  for made in NOTICES.txt corriente.cdx.json; do
    [ -e "$made_in/$made" ] || fail "$made_in/$made is missing: make sbom"
    install -D -m 0644 "$made_in/$made" "$1/usr/share/doc/corriente/$made"
  done
}

case "${1:-}" in
install)
  root="${2:-}"
  [ -n "$root" ] || [ "$(id -u)" = 0 ] || fail "installing needs root: sudo make install"
  files "$root"
  install -D -m 0644 packaging/corriente.service "$root/etc/systemd/system/corriente.service"
  # A configuration that somebody has changed stays.
  [ -e "$root/etc/corriente/corriente.conf" ] || install -D -m 0640 packaging/corriente.conf "$root/etc/corriente/corriente.conf"
  [ -n "$root" ] || sh packaging/postinst configure
  say "installed${root:+ under $root}"
  ;;
deb)
  command -v dpkg-deb >/dev/null || fail "dpkg-deb is missing: apt-get install dpkg"
  out="${2:-bin}"
  version="${VERSION:-$(git describe --tags --always --dirty 2>/dev/null || echo 0)}"
  case "$version" in [0-9]*) ;; *) version="0~$version" ;; esac
  arch="$(dpkg --print-architecture)"
  tmp="$(mktemp -d)"
  trap 'rm -rf "$tmp"' EXIT
  chmod 0755 "$tmp"
  files "$tmp"
  install -D -m 0644 packaging/corriente.service "$tmp/lib/systemd/system/corriente.service"
  install -D -m 0640 packaging/corriente.conf "$tmp/etc/corriente/corriente.conf"
  install -D -m 0755 packaging/postinst "$tmp/DEBIAN/postinst"
  install -D -m 0755 packaging/prerm "$tmp/DEBIAN/prerm"
  echo /etc/corriente/corriente.conf > "$tmp/DEBIAN/conffiles"
  cat > "$tmp/DEBIAN/control" <<CONTROL
Package: corriente
Version: $version
Architecture: $arch
Maintainer: The Corriente project <corriente@localhost>
Depends: mariadb-server, adduser, libc6
Section: misc
Priority: optional
Installed-Size: $(du -sk "$tmp" | cut -f1)
Description: Finds out why a motor does not do its work
 A workshop's tool for starters, windows, wipers, blowers, drives and
 traction motors: it weighs every reading, names the next one worth taking,
 compares repair and replacement, and proves the repair.
CONTROL
  dpkg-deb --root-owner-group --build "$tmp" "$out/corriente_${version}_$arch.deb" >/dev/null
  say "made $out/corriente_${version}_$arch.deb"
  ;;
*) fail "usage: build.sh install [ROOT] | build.sh deb [FOLDER]" ;;
esac
