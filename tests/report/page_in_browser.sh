#!/bin/sh
# Opens a page in headless Chromium, uses its controls, and checks what came of it: that of results, or with `check` as the last word that of a model.
# What a script tells of itself has to hold what its first line names.
# usage: page_in_browser.sh CHROMIUM FIRNFIELD MODEL|RESULTS CHECK_SCRIPT [check]
set -eu
chromium=$1
firnfield=$2
model=$3
check=$4
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
if [ "${5:-}" = check ]; then
    "$firnfield" check "$model" --out "$work/page.html" >/dev/null
elif [ -d "$model" ]; then  # results that are there already
    ln -s "$(realpath "$model")" "$work/page.results"
else
    "$firnfield" solve "$model" --quiet --out "$work/page.results" >/dev/null || [ $? -eq 1 ]
fi
[ "${5:-}" = check ] || "$firnfield" report "$work/page.results" --quiet --out "$work/page.html" >/dev/null
if grep -Eo '(src|href)="(https?:)?//[^"]*"' "$work/page.html"; then
    echo "the page names something on a network" >&2
    exit 1
fi
{
    sed -n '1,/<head>/p' "$work/page.html"
    echo '<script>window.pageErrors = []; addEventListener("error", (e) => pageErrors.push(String(e.message))); addEventListener("unhandledrejection", (e) => pageErrors.push(String(e.reason))); console.error = (...a) => pageErrors.push(a.join(" "));</script>'
    sed '1,/<head>/d' "$work/page.html" | sed '$d' | sed 's#</body>##'
    echo "<script>"
    cat "$(dirname "$check")/looking.js" "$check"
    echo "</script></body></html>"
} > "$work/checked.html"
: > "$work/log.txt"
HOME=$work "$chromium" --headless=new --no-sandbox --use-angle=swiftshader --enable-unsafe-swiftshader --user-data-dir="$work/profile" --window-size=1280,900 \
    --enable-logging=stderr "file://$work/checked.html" > "$work/log.txt" 2>&1 &
trap 'pkill -f "$work/profile" || true; sleep 1; rm -rf "$work" || { sleep 2; rm -rf "$work"; }' EXIT
seconds=0
while ! grep -q 'RESULT {' "$work/log.txt" && [ $seconds -lt 180 ]; do
    sleep 1
    seconds=$((seconds + 1))
done
result=$(grep -o 'RESULT {.*}' "$work/log.txt" | head -1)
echo "$result"
[ -n "$result" ] || { tail -5 "$work/log.txt" >&2; echo "the page did not finish" >&2; exit 1; }
for good in '"ready":"true"' '"errors":\[\]' $(sed -n '1s#^// expects:##p' "$check" | sed 's/\([a-zA-Z]\+\)/"\1":true/g'); do
    echo "$result" | grep -q "$good" || { echo "expected $good" >&2; exit 1; }
done
