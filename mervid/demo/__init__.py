"""The demo set "Tideline Social": invented recordings for an invented evening, with their exact truth beside them."""
