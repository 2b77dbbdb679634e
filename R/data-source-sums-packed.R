# Whole answers whose products a database adds up two at a time, in one number: x (y + base z) sums to the first sum plus base times the second,
# which are told apart as long as neither reaches half of the base. It takes half the sums, and the digits are exact.

# The base; NULL where answers are not whole, numbers would be larger than 64 bits hold, or the engine's whole numbers are not known.
packed_base <- function(source, items, keying, centre) {
  readings <- source$readings[items]
  if (length(items) < 4 || !source$table$engine %in% c("SQLite", "PostgreSQL") || !all(vapply(readings, `[[`, TRUE, "whole"))) {
    return(NULL)
  }
  far <- max(abs(unlist(Map(function(one, shift, sign, at) shift + sign * one$answers - at, readings, keying$shift, keying$sign, centre))))
  most <- source$rows * max(far, 1)^2
  base <- 2^(ceiling(log2(most)) + 2)
  if (is.finite(most) && all((keying$shift - centre) %% 1 == 0) && most * base < 2^62) base
}

# As plain_products().
packed_products <- function(survey, items, keying, centre, base) {
  p <- length(items)
  first <- seq(1, p, by = 2)
  number <- sprintf("%.0f", base)
  two <- ifelse(first < p, paste0("x", first, " + ", number, " * x", first + 1), paste0("x", first))
  from <- function(connection) {
    part <- partition_sql(survey$source, connection)
    paste0("(SELECT ", paste(c(if (part$group != "") "k_", paste0("x", seq_len(p)), paste0(two, " AS y", seq_along(first))), collapse = ", "),
      " FROM ", apart_sql(survey, connection, items, keying, centre, whole = TRUE), all_answered(p),
      if (part$group == "") fence_of(survey$source$table), ") AS packed")
  }
  # Both sums of each product of an item with two others that are not behind it.
  with <- do.call(rbind, lapply(seq_along(first), function(m) cbind(item = first[m]:p, pack = m)))
  sums <- c(paste0("sum(y", seq_along(first), ")"), paste0("sum(x", with[, "item"], " * y", with[, "pack"], ")"))
  low <- low_part(sums, base)
  found <- summed(survey, c("count(*)", low, paste0("(", sums, " - (", low, ")) / ", number)), from)
  low <- found[1 + seq_along(sums)]
  high <- found[-seq_len(1 + length(sums))]
  packs <- seq_along(first)
  products <- matrix(0, p, p + 1)
  products[cbind(with[, "item"], first[with[, "pack"]])] <- low[-packs]
  products[cbind(with[, "item"], first[with[, "pack"]] + 1)] <- high[-packs]
  list(n = found[1], sum = as.vector(rbind(low[packs], high[packs]))[seq_len(p)],
    products = replace(products[, seq_len(p)], upper.tri(diag(p)), 0))
}

# What a whole number is above a multiple of the base, from less than half of it below to half of it above.
low_part <- function(number, base) {
  half <- sprintf("%.0f", base / 2)
  base <- sprintf("%.0f", base)
  paste0("((", number, " + ", half, ") % ", base, " + ", base, ") % ", base, " - ", half)
}
