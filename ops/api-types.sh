#!/usr/bin/env bash
# Write the front end's API types from the server's OpenAPI; with --check only compare.
source "$(dirname "${BASH_SOURCE[0]}")/ground.sh"
need_python requirements/app.lock
need_node
OUT=web/src/shell/api
WORK="$(mktemp -d)"
trap 'rm -rf "$WORK"' EXIT
FT_SECRET=unused FT_DEMO=1 python -m fieldtally.server.openapi "$WORK"
for name in server accounts; do
  (cd web && npx --no-install openapi-typescript "$WORK/$name".* -o "$WORK/out-$name.d.ts" >/dev/null)
  if [ "${1:-}" = --check ]; then
    cmp -s "$WORK/out-$name.d.ts" "$OUT/$name.schema.d.ts" || { say "$OUT/$name.schema.d.ts is out of date: run ops/api-types.sh"; exit 1; }
  else
    mkdir -p "$OUT" && cp "$WORK/out-$name.d.ts" "$OUT/$name.schema.d.ts"
  fi
done
