#!/bin/sh
# Keeps the looks of the demo pieces as recipes. Usage: demo/make_recipes.sh BUILD_DIR
cd "$(dirname "$0")" || exit 1
mkdir -p recipes
keep() { # NAME PIECE ELEMENT FILE [STEPS]
    "../$BUILD/bin/bathylux-cli" keep "$2.json" --of "$3" -o "recipes/$4.bathylux-recipe" --name "$1" ${5:+--steps "$5"} || exit 1
}
BUILD=$1
keep "Salt crust" salt-pier lettering salt-crust
keep "Melting wax" night-service lettering melting-wax strokes-down,drips,melt,bevel,pattern,soften
keep "Warm wax" night-service hours warm-wax
keep "Worn enamel" quay-end enamel worn-enamel
keep "Pitted steel" quay-end steel pitted-steel
keep "Chiselled gilt" last-tram-home lettering chiselled-gilt
keep "Gilt edge" last-tram-home frame gilt-edge
keep "Clear glass" quay-lights title clear-glass
keep "Depth tints" tide-table title depth-tints
keep "Struck brass" depot-emblem emblem struck-brass
keep "Enamel letters" quay-end words enamel-letters
keep "Raised figures" line-tile line raised-figures
