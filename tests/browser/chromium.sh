#!/usr/bin/env bash
# The browser of the browser tests: Debian's chromium, installed where it is missing.
set -u
if [ -x /usr/bin/chromium ]; then exit 0; fi
echo "Chromium is missing; installing Debian's package for the browser tests."
as_root=""
[ "$(id -u)" = 0 ] || as_root="sudo -n"
if $as_root apt-get update -qq && DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq chromium > /dev/null; then
  exit 0
fi
echo "Could not install chromium. Install it by hand (apt-get install chromium), then run again." >&2
exit 1
