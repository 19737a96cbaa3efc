"""Solves a model and reads its fields back with VTK, an independent reader."""
import json
import os
import subprocess
import sys
import tempfile

from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkIOXML import vtkXMLUnstructuredGridReader

command, model = sys.argv[1:3]
with tempfile.TemporaryDirectory() as folder:
    out = os.path.join(folder, "results")
    subprocess.run([command, "solve", model, "--out", out, "--no-pictures", "--quiet"], check=False, stdout=subprocess.DEVNULL)
    summary = json.load(open(os.path.join(out, "summary.json")))
    for study in summary["studies"]:
        reader = vtkXMLUnstructuredGridReader()
        reader.SetFileName(os.path.join(out, "fields", study["study"]["name"] + ".vtu"))
        reader.Update()
        grid = reader.GetOutput()
        assert grid.GetNumberOfCells() == study["cells"], (grid.GetNumberOfCells(), study["cells"])
        temperature = vtk_to_numpy(grid.GetCellData().GetArray("temperature"))
        part = vtk_to_numpy(grid.GetCellData().GetArray("part"))
        assert grid.GetCellData().GetArray("heat flux").GetNumberOfComponents() == 3
        # Fields are those of the solved mesh, figures are corrected for it.
        def solved(kind, place):
            known = [f["solved"] for f in study.get("figures", []) if f["kind"] == kind and f.get("solved") is not None]
            return known or [p[place]["temperature"] for p in study["parts"]]

        coldest, hottest = min(solved("min", "coldest")), max(solved("max", "hottest"))
        assert coldest - 1e-3 <= temperature.min() and temperature.max() <= hottest + 1e-3
        assert set(part) == set(range(len(study["parts"])))
        volume = sum(abs(grid.GetCell(i).GetBounds()[1] - grid.GetCell(i).GetBounds()[0])
                     * abs(grid.GetCell(i).GetBounds()[3] - grid.GetCell(i).GetBounds()[2])
                     * abs(grid.GetCell(i).GetBounds()[5] - grid.GetCell(i).GetBounds()[4]) for i in range(grid.GetNumberOfCells()))
        expected = sum(p["volume"] for p in study["parts"]) / study["multiplicity"]
        assert abs(volume - expected) < 1e-5 * expected, (volume, expected)
print("read by VTK:", ", ".join(s["study"]["name"] for s in summary["studies"]))
