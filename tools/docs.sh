#!/usr/bin/env bash
# Builds the guide and the pages of the code into build/docs with Sphinx; needs no network.
set -euo pipefail
work=build/docs-src
rm -rf "$work" build/docs
mkdir -p "$work" build
cp docs/site/* "$work/"
cp docs/*.md "$work/"
cp -r docs/figures docs/screenshots "$work/"
cp README.md "$work/readme.md"
cp CONTRIBUTING.md "$work/contributing.md"
cp CHANGELOG.md "$work/changelog.md"
sed -i 's#](docs/#](#g; s#src="docs/#src="#g' "$work/readme.md" "$work/contributing.md"
sed -i 's#](src/plumbbob/desk/fonts/OFL.txt)#](https://openfontlicense.org)#' "$work/readme.md"
.venv/bin/sphinx-apidoc -q --force --separate --no-toc --module-first -o "$work/api" src/plumbbob \
    'src/plumbbob/store/migrations/*' 'src/plumbbob/desk/*' 'src/plumbbob/cli/__main__.py'
{
    printf '# Pages of the code\n\n```{toctree}\n:maxdepth: 1\n\n'
    (cd "$work" && ls api/*.rst | sed 's/\.rst$//')
    printf '```\n'
} > "$work/code.md"
QT_QPA_PLATFORM=offscreen .venv/bin/sphinx-build --quiet -b html -j 2 "$work" build/docs
echo "build/docs/index.html: $(find build/docs -name '*.html' | wc -l) pages"
