#!/usr/bin/env bash
# Writes web/src/api/openapi.json from the server and the web's types from it. Run after changing an endpoint; ./test checks that it was.
set -euo pipefail
root=$(cd "$(dirname "$0")/.." && pwd)
target=${1:-$root/web/src/api/openapi.json}
dotnet build "$root/src/Bostel.Server" -c Release -v quiet --nologo >/dev/null
(cd "$root/src/Bostel.Server" && Bostel__WriteOpenApi="$target" dotnet bin/Release/net10.0/Bostel.Server.dll >/dev/null)
[ -n "${1:-}" ] || (cd "$root/web" && npm run --silent api)
