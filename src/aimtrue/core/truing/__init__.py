"""Sheet 2, Truing: readings and the correction that meets them."""
