# Whole answers whose products a database adds up two at a time, in one number: x (y + base z) sums to the first sum plus base times the second,
# which are told apart as long as neither reaches half of the base. It takes half the sums, and the digits are exact.

# The base; NULL where answers are not whole, numbers would be larger than 64 bits hold, or the engine's whole numbers are not known.
packed_base <- function(source, items, keying, centre) {
  readings <- source$readings[items]
  if (length(items) < 4 || !engine_trait(source$table$engine, "packs") || !all(vapply(readings, `[[`, TRUE, "whole"))) {
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
  from <- function(connection) {
    part <- partition_sql(survey$source, connection)
    packed_rows(c(if (part$group != "") "k_", paste0("x", seq_len(p)), paste(two_in_one(first, p, base), "AS", paste0("y", seq_along(first)))),
      apart_sql(survey, connection, items, keying, centre, whole = TRUE), all_answered(p), if (part$group == "")
        engine_trait(survey$source$table$engine, "fence"))
  }
  with <- packed_pairs_of(first, p)
  found <- two_sums(survey, c(paste0("sum(y", seq_along(first), ")"), product_sums(with)), base, from)
  packs <- seq_along(first)
  list(n = found$n, sum = as.vector(rbind(found$low[packs], found$high[packs]))[seq_len(p)],
    products = unpacked_products(found$low[-packs], found$high[-packs], with, first, p))
}

# As plain_pairs(): y = x + base for those who answered, else 0, so that the sum of y over those who answered another item is that of x and,
# times the base, how many they are.
packed_pairs <- function(survey, items, keying, centre, base) {
  p <- length(items)
  own <- seq_len(p)
  first <- seq(1, p, by = 2)
  from <- function(connection) {
    part <- partition_sql(survey$source, connection)
    rows <- apart_sql(survey, connection, items, keying, centre, whole = TRUE)
    fence <- if (part$group == "") engine_trait(survey$source$table$engine, "fence")
    there <- packed_rows(c(if (part$group != "") "k_", paste0("coalesce(x", own, ", 0) AS x", own),
      paste0("CASE WHEN x", own, " IS NULL THEN 0 ELSE 1 END AS m", own)), rows, "", fence)
    packed_rows(c(if (part$group != "") "k_", paste0("x", own), paste0("m", own), paste0("x", own, " + ", sprintf("%.0f", base), " * m", own, " AS z",
      own), paste(two_in_one(first, p, base), "AS", paste0("y", seq_along(first)))), there, "", fence)
  }
  with <- packed_pairs_of(first, p)
  all <- expand.grid(row = own, column = own)
  found <- two_sums(survey, c(paste0("sum(m", all$column, " * z", all$row, ")"), product_sums(with)), base, from)
  m <- seq_len(p^2)
  list(pairs = matrix(found$high[m], p), sums = matrix(found$low[m], p),
    products = unpacked_products(found$low[-m], found$high[-m], with, first, p))
}

packed_rows <- function(columns, from, where, fence) {
  paste0("(SELECT ", paste(columns, collapse = ", "), " FROM ", from, where, fence, ") AS packed")
}

# Two items in one number, the last of an odd number alone.
two_in_one <- function(first, p, base) ifelse(first < p, paste0("x", first, " + ", sprintf("%.0f", base), " * x", first + 1), paste0("x", first))

# Both sums of each product of an item with two others that are not behind it.
packed_pairs_of <- function(first, p) do.call(rbind, lapply(seq_along(first), function(m) cbind(item = first[m]:p, pack = m)))
product_sums <- function(with) paste0("sum(x", with[, "item"], " * y", with[, "pack"], ")")

# Number of rows, and the two parts of each sum.
two_sums <- function(survey, sums, base, from) {
  low <- low_part(sums, base)
  high <- paste0("(", sums, " - (", low, ")) / ", sprintf("%.0f", base))
  found <- summed(survey, c("count(*)", rbind(low, high)), from)
  odd <- seq(1, 2 * length(sums), by = 2)
  list(n = found[1], low = found[-1][odd], high = found[-1][odd + 1])
}

unpacked_products <- function(low, high, with, first, p) {
  products <- matrix(0, p, p + 1)
  products[cbind(with[, "item"], first[with[, "pack"]])] <- low
  products[cbind(with[, "item"], first[with[, "pack"]] + 1)] <- high
  replace(products[, seq_len(p)], upper.tri(diag(p)), 0)
}

# What a whole number is above a multiple of the base, from less than half of it below to half of it above.
low_part <- function(number, base) {
  half <- sprintf("%.0f", base / 2)
  base <- sprintf("%.0f", base)
  paste0("((", number, " + ", half, ") % ", base, " + ", base, ") % ", base, " - ", half)
}
