"""PDF: the templates of our pages, and the typesetter that fills them."""
