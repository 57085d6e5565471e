"""Answers that are kept as files. Used by the routes that give any."""

CSV = "text/csv; charset=utf-8"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def name_file(name: str) -> dict[str, str]:
    """The header by which a browser keeps an answer under this name (RFC 6266)."""
    return {"Content-Disposition": f'attachment; filename="{name}"'}
