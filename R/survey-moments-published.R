# Moments from a published matrix.

published_moments <- function(matrix, n, sd, mean, scales) {
  if (is.null(n)) {
    stop_input(message_of("e_published_matrix_needs"))
  }
  check_number(n, "n", 2)
  p <- ncol(matrix)
  if (is.null(colnames(matrix))) dimnames(matrix) <- rep(list(paste0("item", seq_len(p))), 2)
  rownames(matrix) <- colnames(matrix)
  for (arg in c("sd", "mean")) {
    value <- get(arg)
    if (!is.null(value) && !(is.numeric(value) && length(value) == p && !anyNA(value))) {
      stop_input(message_of("e_must_numbers_one", arg = arg, p = p, value = what_is(value)))
    }
  }
  if (!is.null(sd)) matrix <- matrix * outer(sd, sd)
  if (is.null(mean)) mean <- rep(NA_real_, p)
  new_moments(n, 0, mean, matrix, "as published", "published", scales_or_all(scales, colnames(matrix)))
}
