"""What leaves the screen on paper: each paper is made once, as blocks of typed cells, and written as PDF, XLSX, CSV or JSON from them."""
