"""The texts of the desktop's own formats: a desktop entry, a MIME type, AppStream metainfo."""

from __future__ import annotations

from html import escape

from woven_locus.core.errors import WovenError
from woven_locus.integration import APP_ID
from woven_locus.version import __version__

MIME_TYPE = "application/x-woven-locus+json"
NAME, SUMMARY = (
    "Woven Locus",
    "Lay out, judge and route the grids of city-builder and tower-defence games",
)
_ABOUT = (
    "A desktop workbench for developers of city-builder and tower-defence games. It answers, with the working shown: where am "
    "I, may I build here, and why not?",
    "Lay out a grid, paint its ground, place structures that are judged cell by cell, draw roads, route agents over them, let "
    "traffic and waves run, and prove a whole plan. Everything can be undone, and a plan is a JSON file made for version "
    "control.",
)
# Of the changelog's newest version.
_RELEASED = "2026-11-28"


def desktop_entry(command: str) -> str:
    """Desktop Entry Specification 1.4. command : the absolute path of the program. Raises WovenError for one that an entry
    cannot name everywhere."""
    if odd := sorted(set(command) & set('"`$\\\n')):
        raise WovenError(
            f"{command!r} holds {' '.join(map(repr, odd))}, which an entry cannot name; install it elsewhere"
        )
    return f"""[Desktop Entry]
Type=Application
Version=1.4
Name={NAME}
GenericName=Grid Workbench
Comment={SUMMARY}
Exec="{command.replace("%", "%%")}" open %f
TryExec={command}
Icon={APP_ID}
Terminal=false
Categories=Development;
Keywords=grid;placement;road;route;tower defence;city builder;level;
MimeType={MIME_TYPE};
StartupWMClass={APP_ID}
StartupNotify=true
"""


def mime_package() -> str:
    """Shared MIME-info: `*.plan.json` is a plan, and JSON to whoever knows no plans."""
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="{MIME_TYPE}">
    <comment>Woven Locus plan</comment>
    <sub-class-of type="application/json"/>
    <icon name="{APP_ID}"/>
    <glob pattern="*.plan.json" weight="60"/>
  </mime-type>
</mime-info>
"""


def metainfo() -> str:
    """AppStream metainfo 1.0."""
    paragraphs = "\n".join(f"    <p>{escape(text)}</p>" for text in _ABOUT)
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<component type="desktop-application">
  <id>{APP_ID}</id>
  <metadata_license>CC0-1.0</metadata_license>
  <project_license>MIT</project_license>
  <name>{NAME}</name>
  <summary>{escape(SUMMARY)}</summary>
  <developer id="org.woven_locus">
    <name>The Woven Locus authors</name>
  </developer>
  <description>
{paragraphs}
  </description>
  <launchable type="desktop-id">{APP_ID}.desktop</launchable>
  <icon type="stock">{APP_ID}</icon>
  <categories>
    <category>Development</category>
  </categories>
  <provides>
    <binary>woven-locus</binary>
    <mediatype>{MIME_TYPE}</mediatype>
  </provides>
  <content_rating type="oars-1.1"/>
  <releases>
    <release version="{__version__}" date="{_RELEASED}"/>
  </releases>
</component>
"""
