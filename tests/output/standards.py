"""Validation of files against their standards by independent validators: PDF/UA-1 (ISO 14289-1), workbooks (the schemas
of ISO/IEC 29500), OpenDocument (ISO/IEC 26300)."""

from pathlib import Path

import pdfua
from openxml_audit import FileFormat, OdfValidator, OpenXmlValidator, ValidationSeverity


def unfit(content: bytes, form: str, folder: Path) -> list[str]:
    """The violations of its standard in a file, without recommendations."""
    path = folder / f"checked.{form}"
    path.write_bytes(content)
    if form == "pdf":
        return [f"{finding.rule_id} {finding.message}" for finding in pdfua.validate(str(path)).findings]
    checker = OdfValidator() if form == "ods" else OpenXmlValidator(file_format=FileFormat.OFFICE_2019)
    found = checker.validate(str(path))
    said = [str(error) for error in found.errors if error.severity == ValidationSeverity.ERROR]
    return said if found.is_valid else said or ["not valid"]
