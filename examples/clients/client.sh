#!/bin/sh
# Brings an event in, lists who is falling through, and saves the send log. ZEST_URL, ZEST_COURSE and ZEST_TOKEN say where.
# The token may send data and read the course (Course, Access, Tokens for programs).
set -eu
api="$ZEST_URL/api/v1"
auth="Authorization: Bearer $ZEST_TOKEN"
curl -fsS -H "$auth" -H 'Content-Type: application/json' "$api/activity" \
  -d "{\"events\":[{\"id\":\"curl-$(date +%s)-$$\",\"person\":\"$1\",\"kind\":\"visit\",\"at\":\"$2\"}]}"
echo
curl -fsS -H "$auth" "$api/courses/$ZEST_COURSE/falling"
echo
curl -fsS -H "$auth" "$api/courses/$ZEST_COURSE/log?take=200" -o "${3:-send-log.json}"
