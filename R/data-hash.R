# What tells one object from another, in any session: the same for the same content, whatever version of R wrote it.

# The first 14 bytes of what R writes say which version that is.
hash_of <- function(x) digest::digest(x, "spookyhash", skip = 14L)
