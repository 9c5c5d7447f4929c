#!/bin/sh
# Renders the small pictures of the demo shelf. Usage: demo/make_shelf.sh BUILD_DIR
cd "$(dirname "$0")" || exit 1
for piece in last-tram-home night-service quay-end salt-pier the-basin quay-lights cobbles; do
    "../$1/bin/bathylux-cli" render "$piece.json" -o "shelf/$piece.png" --scale 0.22 || exit 1
done
"../$1/bin/bathylux-cli" render depot-ident.json -o shelf/depot-ident.png --scale 0.34 --frame 95 || exit 1
for piece in rubber-badge makers-plate hail; do
    "../$1/bin/bathylux-cli" render "$piece.json" -o "shelf/$piece.png" --view solid --size 340x240 --samples 64 || exit 1
done
"../$1/bin/bathylux-cli" render ticket-beetle.json -o shelf/ticket-beetle.png --scale 3 || exit 1
