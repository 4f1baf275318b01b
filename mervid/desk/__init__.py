"""The Qt application: views draw values and emit intentions; stages turn intentions into edits."""
