"""The second file form: steps under the cover they lie beneath, a part and its way out in one entry, one-line forms."""
