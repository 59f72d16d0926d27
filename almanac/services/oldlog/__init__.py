"""An old log of incidents from a spreadsheet: columns mapped, rows checked, all of it or nothing."""
