"""The catalog: reading, searching, planning from and changing model pages."""
