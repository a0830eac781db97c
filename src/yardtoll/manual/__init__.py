"""The manual: its pages, a page for each method, the glossary; shown by the window and as files."""
