"""The commands of the shell: options, figures worked out, yards carried in and out."""
