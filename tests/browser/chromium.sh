#!/usr/bin/env bash
# The browser of the browser tests: Debian's chromium without a window, or with one where only that is there.
set -u
if [ -x /usr/bin/chromium-headless-shell ]; then exit 0; fi
as_root=""
[ "$(id -u)" = 0 ] || as_root="sudo -n"
install() { DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq "$1" > /dev/null 2>&1; }
echo "Installing Debian's chromium-headless-shell for the browser tests."
if install chromium-headless-shell; then exit 0; fi
if $as_root apt-get update -qq > /dev/null 2>&1 && install chromium-headless-shell; then exit 0; fi
if [ -x /usr/bin/chromium ]; then
  echo "It could not be installed; the tests run with the chromium that is there, and longer."
  exit 0
fi
if install chromium; then exit 0; fi
echo "Could not install chromium. Install it by hand (apt-get install chromium-headless-shell), then run again." >&2
exit 1
