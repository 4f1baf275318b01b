"""Two recordings of one song: how one lies in the other, and borrowing a grid."""
