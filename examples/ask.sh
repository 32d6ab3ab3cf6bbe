#!/bin/sh
# Asks an app one thing, and prints the answer as it comes: ./ask.sh "Do dogs pay on the 9:40?"
# FINCH_APP is the address of the app, FINCH_VISITOR who asks; FINCH_TOKEN where the app wants one.
set -eu

app=${FINCH_APP:-http://127.0.0.1:4600/api/apps/quay-desk}
question=${1:?"usage: ask.sh QUESTION"}

# a question in quotation marks: what JSON does not take as it is, is escaped (RFC 8259)
quoted=$(printf '%s' "$question" | sed 's/\\/\\\\/g; s/"/\\"/g; s/	/\\t/g' | awk '{ printf "%s%s", separator, $0; separator = "\\n" }')

# -N: curl itself would hold the text back until it has a block of it
curl -sSN "$app/replies" \
  -H 'content-type: application/json' \
  -H 'accept: application/x-ndjson' \
  -H "finch-visitor: ${FINCH_VISITOR:-shell}" \
  -H 'finch-client: ask.sh' \
  ${FINCH_TOKEN:+-H "authorization: Bearer $FINCH_TOKEN"} \
  -d "{\"message\":\"$quoted\"}" |
  # one event a line; a failure is one as well, or the only line there is
  while IFS= read -r event || [ -n "$event" ]; do
    case $event in
      *'"event":"text"'*)
        text=${event#*'"text":"'}
        # printf knows the escapes that JSON has, but for \u and quotation marks
        printf '%b' "$(printf '%s' "${text%'"}}'}" | sed 's/\\"/"/g; s/\\u2019/’/g')"
        ;;
      *'"event":"problem"'* | *'"status":'*)
        printf '%s\n' "$event" >&2
        exit 1
        ;;
    esac
  done
printf '\n'
