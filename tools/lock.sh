#!/usr/bin/env bash
# Write the lock files anew from pyproject.toml (needs uv: pip install uv).
set -eu
cd "$(dirname "$0")/.."
compile() { uv pip compile -q pyproject.toml --universal --generate-hashes --no-header --no-annotate --no-emit-index-url "$@"; }
compile -o requirements.lock
compile --group dev -c requirements.lock -o requirements-dev.lock
compile --group bench -c requirements.lock -o requirements-bench.lock
