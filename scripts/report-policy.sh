#!/bin/sh
# Prints the hashes of the report's two scripts as its content security policy must name them
# (SCRIPT_HASHES in crates/yarrup-report/src/page.rs; a test compares).
cd "$(dirname "$0")/../crates/yarrup-report/assets" || exit 1
for script in vendor/uplot/uPlot.iife.min.js report.js; do
    printf 'sha256-%s\n' "$(openssl dgst -sha256 -binary "$script" | base64)"
done
