#!/bin/sh
# Checks an app in CI, without network, key or price: what its providers answered stands in a file beside it.
#
#   sh examples/ci/check.sh [bundle] [recordings] [folder for reports]
#
# Ends with 0 where all checks pass, 1 where one broke, 2 where a call has no recording: then record it anew, with
#   npm run -s finch -- record quay-desk --to demo/quay-desk/quay-desk.recordings.jsonl
set -eu

bundle=${1:-demo/quay-desk/quay-desk.finch.json}
recordings=${2:-demo/quay-desk/quay-desk.recordings.jsonl}
reports=${3:-test-results/checks}

mkdir -p "$reports"
exec node bin/finch.mjs check --app "$bundle" --on live --recordings "$recordings" --serve \
  --junit "$reports/checks.xml" --report "$reports/checks.html" --line "$reports/checks.txt"
