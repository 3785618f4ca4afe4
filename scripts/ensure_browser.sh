#!/bin/sh
# Make sure a Chromium is on this machine; Debian's package when there is none.
set -e
for name in chromium chromium-browser; do
  command -v "$name" >/dev/null 2>&1 && exit 0
done
if [ "$(id -u)" = 0 ]; then as=""; elif command -v sudo >/dev/null 2>&1; then as="sudo"; else
  echo "The browser tests need Chromium: install the package chromium, then run this again." >&2
  exit 1
fi
echo "Installing Chromium for the browser tests."
$as apt-get update -qq
DEBIAN_FRONTEND=noninteractive $as apt-get install -y -qq --no-install-recommends chromium fonts-liberation >/dev/null
