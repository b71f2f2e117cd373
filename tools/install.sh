#!/usr/bin/env bash
# Installs what tests need beside Go and Node.js, from Debian's packages, where it is
# missing and we may: a browser, a C compiler for the race detector, and the reference
# implementations that versions and ranges are compared with.
set -euo pipefail

missing=()
need() { # PACKAGE COMMAND-OR-FILE
  case $2 in
    /*) compgen -G "$2" >/dev/null || missing+=("$1") ;;
    *) command -v "$2" >/dev/null || missing+=("$1") ;;
  esac
}
need chromium chromium
need gcc cc
need libc6-dev /usr/include/stdio.h
need python3-packaging /usr/lib/python3/dist-packages/packaging
need ruby ruby
need php-cli php
need php-composer-semver /usr/share/php/Composer/Semver/autoload.php
need elixir elixir
need default-jdk-headless javac
need libmaven3-core-java /usr/share/java/maven3-artifact.jar
need rustc rustc
need librust-semver-dev '/usr/share/cargo/registry/semver-1.*'
need dpkg dpkg
need ripgrep rg
need rpm rpmbuild
need db5.3-util db5.3_load
need zstd zstd
need jq jq
need curl curl
need sqlite3 sqlite3

[ ${#missing[@]} -gt 0 ] || exit 0
if [ "$(id -u)" != 0 ] || ! command -v apt-get >/dev/null; then
  echo "The tests need these Debian packages: ${missing[*]}" >&2
  exit 1
fi
echo "Installing from Debian's packages: ${missing[*]}"
apt-get update -qq
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
