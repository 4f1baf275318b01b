"""What is mixed for the ear: the track with a reference beat along its grid."""
