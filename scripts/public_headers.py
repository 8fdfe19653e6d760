#!/usr/bin/env python3
"""Writes the library's headers as they are installed, where they include each other as <zither/room/name.h>.

  scripts/public_headers.py LIST FOLDER    LIST: the headers of src/, one a line; FOLDER is made anew

Fails where a public header includes one that is not public.
"""
import pathlib
import re
import shutil
import sys

source = pathlib.Path(__file__).resolve().parent.parent / "src"
headers = [pathlib.Path(line).resolve().relative_to(source) for line in pathlib.Path(sys.argv[1]).read_text().split()]
folder = pathlib.Path(sys.argv[2])
public = {str(header) for header in headers}
shutil.rmtree(folder, ignore_errors=True)
for header in headers:
    def installed(include):
        if include.group(1) not in public:
            sys.exit(f"{header} is public and includes {include.group(1)}, which is not")
        return f"#include <zither/{include.group(1)}>"

    text = re.sub(r'#include "([^"]+)"', installed, (source / header).read_text())
    (folder / header).parent.mkdir(parents=True, exist_ok=True)
    (folder / header).write_text(text)
