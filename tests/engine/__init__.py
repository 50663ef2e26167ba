"""The engine against standards, papers, closed forms and reference libraries."""
