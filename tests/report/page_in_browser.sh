#!/bin/sh
# Opens a report page in headless Chromium, uses its controls, and checks what came of it.
# usage: page_in_browser.sh CHROMIUM FIRNFIELD MODEL CHECK_SCRIPT
set -eu
chromium=$1
firnfield=$2
model=$3
check=$4
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
"$firnfield" solve "$model" --quiet --out "$work/page.results" >/dev/null || [ $? -eq 1 ]
"$firnfield" report "$work/page.results" --quiet --out "$work/page.html" >/dev/null
if grep -Eo '(src|href)="(https?:)?//[^"]*"' "$work/page.html"; then
    echo "the page names something on a network" >&2
    exit 1
fi
{
    sed -n '1,/<head>/p' "$work/page.html"
    echo '<script>window.pageErrors = []; addEventListener("error", (e) => pageErrors.push(String(e.message))); addEventListener("unhandledrejection", (e) => pageErrors.push(String(e.reason))); console.error = (...a) => pageErrors.push(a.join(" "));</script>'
    sed '1,/<head>/d' "$work/page.html" | sed '$d' | sed 's#</body>##'
    echo "<script>"
    cat "$check"
    echo "</script></body></html>"
} > "$work/checked.html"
HOME=$work timeout 240 "$chromium" --headless=new --no-sandbox --use-angle=swiftshader --enable-unsafe-swiftshader --user-data-dir="$work/profile" --window-size=1280,900 \
    --virtual-time-budget=60000 --dump-dom "file://$work/checked.html" > "$work/dom.html" 2> "$work/err.txt" || { tail -5 "$work/err.txt" >&2; exit 1; }
result=$(grep -o 'RESULT {.*}' "$work/dom.html" | head -1)
echo "$result"
[ -n "$result" ] || { echo "the page did not finish" >&2; exit 1; }
for good in '"ready":"true"' '"drawn":true' '"sectionActs":true' '"cutMoves":true' '"sectionUndone":true' '"partActs":true' '"partUndone":true' '"thresholdActs":true' '"rangeActs":true' \
            '"keyActs":true' '"readout":true' '"timeActs":true' '"errors":\[\]'; do
    echo "$result" | grep -q "$good" || { echo "expected $good" >&2; exit 1; }
done
