#!/usr/bin/env bash
# Takes the pictures of docs/screenshots from a fresh demo: pages in Chromium, terminal
# output in a terminal window under Xvfb (packages xvfb, xterm and imagemagick).
set -euo pipefail
cd "$(dirname "$0")/../.."
out=${1:-docs/screenshots}
only=${2:-}
work=/tmp/garden-trust # a fixed place, so that paths in the pictures stay the same
rm -rf "$work"
mkdir "$work"
trap 'kill $(jobs -p) 2>/dev/null || true; rm -rf "$work"' EXIT
mkdir -p "$out"

./bin/wexo demo --fresh --dir "$work/demo" --listen 127.0.0.1:8640 >"$work/out" 2>&1 &
for _ in $(seq 100); do grep -q sign-in "$work/out" && break; sleep 0.1; done
go run ./tools/shots --url "$(grep -o 'http://[^ ]*' "$work/out")" --out "$out" --only "$only"

command -v xterm >/dev/null && command -v Xvfb >/dev/null && command -v import >/dev/null || {
  echo "Without xterm, xvfb and imagemagick the terminal pictures stay as they are." >&2; exit 0; }
inventories=()
for file in "$work"/demo/inventories/*.json; do inventories+=(--inventory "$file"); done
Xvfb :97 -screen 0 1280x800x24 >/dev/null 2>&1 &
sleep 1
terminal() { # name, command
  [[ "$1" == *"$only"* ]] || return 0
  DISPLAY=:97 xterm -geometry 139x42+0+0 -fa 'DejaVu Sans Mono' -fs 11 -bg '#faf9f5' -fg '#1b2421' -xrm 'XTerm*color1: #a8330b' \
    -xrm 'XTerm*color2: #2c6a4b' -xrm 'XTerm*color3: #7d5300' -xrm 'XTerm*color4: #34527a' -xrm 'XTerm*color6: #0b5d50' -b 12 \
    -e bash -c "$2; tput civis; touch '$work/done'; sleep 20" &
  local window=$!
  for _ in $(seq 100); do [ -e "$work/done" ] && break; sleep 0.1; done
  sleep 0.5
  DISPLAY=:97 import -window root "$out/$1.png"
  rm -f "$work/done"
  kill $window 2>/dev/null || true
  wait $window 2>/dev/null || true
}
survey="$PWD/bin/wexo survey --config $work/demo/wexo.yaml --as-of 2026-11-16 ${inventories[*]} --fail-on never"
terminal survey "cd $work/demo/repositories; echo '\$ wexo survey --as-of 2026-11-16 …'; $survey weather-mast plant-labels specimen-web visitor-kiosk bee-counter moss-index gift-shop"
terminal causes "cd $work/demo; echo '\$ wexo survey --as-of 2026-11-16 … repositories'; script -qefc '$survey repositories' /dev/null | head -40"
terminal trace "cd $work/demo/repositories; echo '\$ wexo trace seed-ledger java'; $PWD/bin/wexo trace --as-of 2026-11-16 --inventory $work/demo/inventories/potting-bench.json --inventory $work/demo/inventories/seed-agent.json seed-ledger java"
terminal reconcile "cd $work/demo/repositories; echo '\$ wexo reconcile meadow-app'; $PWD/bin/wexo reconcile --config ../wexo.yaml --as-of 2026-11-16 ${inventories[*]} meadow-app; echo; echo '\$ wexo reconcile --all .'; $PWD/bin/wexo reconcile --config ../wexo.yaml --all --as-of 2026-11-16 ${inventories[*]} ."
terminal inventory "cd $work/demo/machines; echo '\$ wexo inventory'; script -qefc '$PWD/bin/wexo inventory --root potting-bench --home /home/fern --path /home/fern/.toolshed/shims:/opt/node/24.21.0/bin:/opt/go/1.27.4/bin:/usr/bin' /dev/null | head -40"
terminal needs "cd $work/demo; echo '\$ wexo needs --inventory seed-agent.json repositories'; $PWD/bin/wexo needs --config wexo.yaml --as-of 2026-11-16 --inventory inventories/seed-agent.json repositories"
# A file that nests too deeply, a commit that is gone: what a gate says of them.
mkdir -p "$work/gate/greenhouse" "$work/gate/lost-beds"
printf 'terraform {\n  required_version = ">= 1.5"\n}\na = %s' "$(printf '(%.0s' $(seq 5000))" >"$work/gate/greenhouse/main.tf"
printf '22.11.0\n' | tee "$work/gate/greenhouse/.node-version" >"$work/gate/lost-beds/.node-version"
for dir in "$work"/gate/*; do
  git -C "$dir" init -q -b main && git -C "$dir" add -A && git -C "$dir" -c user.name=t -c user.email=t@trust.invalid commit -qm beds
done
rm -rf "$work/gate/lost-beds/.git/objects"
terminal gate "cd $work/gate; echo '\$ wexo survey --strict .'; $PWD/bin/wexo survey --strict --as-of 2026-11-16 --inventory $work/demo/inventories/potting-bench.json .; echo; echo '\$ echo \$?'; $PWD/bin/wexo survey --strict --as-of 2026-11-16 --inventory $work/demo/inventories/potting-bench.json . >/dev/null; echo \$?"
cat >"$work/versions.sh" <<'SHOW'
show() { echo "\$ wexo $1"; eval "\"\$WEXO\" $1" 2>&1; echo; }
show "satisfies npm '^18.17 || >=20.9 <23' 18.16.1 19.4.0 20.11.1 22.0.0-rc.1 22.4.0 23.0.0 --why"
show "satisfies pep440 '>=3.9, !=3.10.1, <3.13' 3.8.20 3.10.1 3.12.4 3.13.0 --why"
show "satisfies --scheme java image-tag 17.0.9_9-jdk-jammy 17.0.9+9 17.0.9+11 --why"
show "order java 21 1.8.0_292 17.0.9+10 17-ea 8u302 17.0.9+9 11.0.2"
show "order debian 1:0.9-1 1.0-1+deb12u1 1.0~rc1-1 1.0-1"
SHOW
export WEXO="$PWD/bin/wexo"
terminal versions "bash $work/versions.sh"
