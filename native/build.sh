#!/usr/bin/env bash
# Builds the CAD translator against Debian's Open CASCADE; does nothing when it is newer than its sources.
set -euo pipefail
cd "$(dirname "$0")"
if [ build/bostel-cad -nt bostel-cad.cpp ] && [ build/bostel-cad -nt product-information.hpp ]; then exit 0; fi
mkdir -p build
g++ -O2 -std=c++17 -w -I/usr/include/opencascade bostel-cad.cpp -o build/bostel-cad.new \
  -lTKXDESTEP -lTKXDEIGES -lTKXCAF -lTKLCAF -lTKCDF -lTKSTEP -lTKIGES -lTKXSBase -lTKMesh -lTKTopAlgo -lTKBRep -lTKGeomAlgo -lTKGeomBase -lTKG3d -lTKG2d -lTKMath -lTKernel
mv build/bostel-cad.new build/bostel-cad
