# Means, covariances and patterns of missing answers from sums that a database works out.

# A provisional mean of each item, keyed: of whole answers a whole number.
provisional_means <- function(survey, items, keying) {
  mean <- vapply(survey$source$readings[items], function(one) {
    middle <- if (is.null(one$counts) || sum(one$counts) == 0) mean(one$answers) else sum(one$answers * one$counts) / sum(one$counts)
    if (one$whole) round(middle) else middle
  }, 0)
  out <- keying$shift + keying$sign * mean
  ifelse(is.finite(out), out, 0)
}

# SELECT ... AS x1, x2, ... : keyed answers less their provisional means; whole: as whole numbers of 64 bits.
apart_sql <- function(survey, connection, items, keying, centre, more = character(), whole = FALSE) {
  source <- survey$source
  trait <- function(what) engine_trait(source$table$engine, what)
  x <- vapply(seq_along(items), function(j) {
    answer <- answer_sql(source, connection, items[j])
    if (whole || !source$readings[[items[j]]]$whole) answer <- paste0("CAST(", answer, " AS ", if (whole) "bigint" else trait("real"), ")")
    # keyed less centre: sign x + (shift - centre)
    paste0(if (keying$sign[j] < 0) "-", "(", answer, ") + ", exact_number(keying$shift[j] - centre[j]))
  }, "")
  # The fence keeps the answers from being worked out anew in every product.
  as_is <- all(vapply(source$readings[items], `[[`, "", "kind") == "as is")
  fence <- if (!is.null(source$table$partitions) || as_is) "" else trait("fence")
  more <- c(more, partition_sql(source, connection)$row)
  paste0("(SELECT ", paste(c(more, paste0(x, " AS x", seq_along(items))), collapse = ", "), these_cases(survey, connection), fence, ") AS t")
}

# Sums of many expressions over the same rows, in as many statements as the engine's number of columns asks for: a named vector, added over shards.
summed <- function(survey, expressions, from, where = "", size = 1500, grouped = TRUE) {
  parts <- split(expressions, ceiling(seq_along(expressions) / size))
  unlist(lapply(unname(parts), function(some) {
    found <- from_shards(survey$source, function(connection) {
      paste0("SELECT ", paste(some, collapse = ", "), " FROM ", from(connection), where, if (grouped) partition_sql(survey$source, connection)$group)
    })
    Reduce(`+`, lapply(found, function(rows) vapply(rows, function(x) sum(as.numeric(x), na.rm = TRUE), 0)))
  }), use.names = FALSE)
}

#' @export
source_moments.sums_source <- function(survey, items, missing = "listwise", kind = "pearson") {
  listwise <- missing == "listwise"
  if (kind == "spearman") {
    return(rank_moments_of_tables(source_tables(survey, items, listwise), items, listwise))
  }
  keying <- keying_of(survey, items)
  asked_before(survey, list("moments", items, missing, keying), {
    centre <- provisional_means(survey, items, keying)
    if (listwise) listwise_sums(survey, items, keying, centre) else pairwise_sums(survey, items, keying, centre)
  })
}

listwise_sums <- function(survey, items, keying, centre) {
  base <- packed_base(survey$source, items, keying, centre)
  found <- if (is.null(base)) plain_products(survey, items, keying, centre) else packed_products(survey, items, keying, centre, base)
  tell_apart(survey, items, found$n)
  name_moments(kernel_moments_of(c(found, list(centre = unname(centre)))), items)
}

# Of complete cases, about a centre: list(n, sum, products: lower triangle).
plain_products <- function(survey, items, keying, centre) {
  p <- length(items)
  at <- which(lower.tri(diag(p), diag = TRUE), arr.ind = TRUE)
  sums <- summed(survey, c("count(*)", paste0("sum(x", seq_len(p), ")"), paste0("sum(x", at[, 1], "*x", at[, 2], ")")),
    function(connection) apart_sql(survey, connection, items, keying, centre), all_answered(p))
  products <- matrix(0, p, p)
  products[at] <- sums[-seq_len(p + 1)]
  list(n = sums[1], sum = sums[1 + seq_len(p)], products = products)
}

all_answered <- function(p) paste0(" WHERE ", paste0("x", seq_len(p), " IS NOT NULL", collapse = " AND "))

# Sums about provisional means of the pairs who answered both, moved to each item's own mean.
pairwise_sums <- function(survey, items, keying, centre) {
  base <- packed_base(survey$source, items, keying, centre)
  found <- if (is.null(base)) plain_pairs(survey, items, keying, centre) else packed_pairs(survey, items, keying, centre, base)
  tell_pairs_apart(survey, items, found$pairs)
  both <- function(lower) lower + t(lower * lower.tri(lower))
  products <- both(found$products)
  ones <- rep(1, length(items))
  offset <- diag(found$sums) / diag(found$pairs)
  products <- products - outer(offset, ones) * t(found$sums) - outer(ones, offset) * found$sums + outer(offset, offset) * found$pairs
  name_moments(pairwise_of_sums(stats::setNames(centre + offset, items), found$pairs, found$sums - offset * found$pairs, products), items)
}

# Of those who answered both items, about a centre: list(pairs: how many, sums: of the row's item, products: lower triangle), matrices.
plain_pairs <- function(survey, items, keying, centre) {
  p <- length(items)
  at <- which(lower.tri(diag(p), diag = TRUE), arr.ind = TRUE)
  all <- expand.grid(row = seq_len(p), column = seq_len(p))
  both <- function(i, j) paste0("x", i, " IS NOT NULL AND x", j, " IS NOT NULL")
  found <- summed(survey, c(
    paste0("sum(CASE WHEN ", both(at[, 1], at[, 2]), " THEN 1 ELSE 0 END)"),
    paste0("sum(x", at[, 1], "*x", at[, 2], ")"),
    paste0("sum(CASE WHEN x", all$column, " IS NOT NULL THEN x", all$row, " END)")
  ), function(connection) apart_sql(survey, connection, items, keying, centre))
  m <- nrow(at)
  lower <- function(values) replace(matrix(0, p, p), cbind(at), values)
  pairs <- lower(found[seq_len(m)])
  list(pairs = pairs + t(pairs * lower.tri(pairs)), sums = matrix(found[-seq_len(2 * m)], p), products = lower(found[m + seq_len(m)]))
}

#' @export
source_patterns.sums_source <- function(survey, items, weight = NULL) {
  keying <- keying_of(survey, items)
  p <- length(items)
  asked_before(survey, list("patterns", items, keying), {
    centre <- provisional_means(survey, items, keying)
    group <- split(seq_len(p), ceiling(seq_len(p) / 30))
    masks <- vapply(group, function(some) {
      paste0("CASE WHEN x", some, " IS NULL THEN 0 ELSE ", format(2^(seq_along(some) - 1), scientific = FALSE, trim = TRUE), " END", collapse = " + ")
    }, "")
    at <- which(lower.tri(diag(p), diag = TRUE), arr.ind = TRUE)
    expressions <- c("count(*)", paste0("sum(x", seq_len(p), ")"), paste0("sum(x", at[, 1], "*x", at[, 2], ")"))
    keys <- paste0("k", seq_along(masks))
    parts <- lapply(unname(split(expressions, ceiling(seq_along(expressions) / 1400))), function(some) {
      from_shards(survey$source, function(connection) {
        paste0("SELECT ", paste(masks, "AS", keys, collapse = ", "), ", ", paste(some, collapse = ", "), " FROM ",
          apart_sql(survey, connection, items, keying, centre), " GROUP BY ", paste(masks, collapse = ", "),
          partition_sql(survey$source, connection)$and)
      })
    })
    patterns_of_sums(survey, pattern_table(parts, length(keys)), items, centre, at)
  })
}

# One row a pattern, statements side by side, shards added: a matrix, keys first.
pattern_table <- function(parts, keys) {
  of_part <- lapply(parts, function(shards) {
    all <- do.call(rbind, lapply(shards, function(shard) vapply(unname(as.list(shard)), as.numeric, numeric(nrow(shard))) |> matrix(nrow(shard))))
    key <- apply(all[, seq_len(keys), drop = FALSE], 1, paste, collapse = " ")
    all[is.na(all)] <- 0
    list(key = key, sums = rowsum(all[, -seq_len(keys), drop = FALSE], key, reorder = FALSE),
      masks = all[!duplicated(key), seq_len(keys), drop = FALSE])
  })
  first <- of_part[[1]]
  sums <- do.call(cbind, lapply(of_part, function(part) part$sums[match(rownames(first$sums), rownames(part$sums)), , drop = FALSE]))
  list(masks = first$masks, sums = unname(sums))
}

patterns_of_sums <- function(survey, table, items, centre, at) {
  p <- length(items)
  group <- ceiling(seq_len(p) / 30)
  bit <- (seq_len(p) - 1) %% 30
  patterns <- lapply(seq_len(nrow(table$sums)), function(k) {
    seen <- which(table$masks[k, group] %/% 2^bit %% 2 == 1)
    n <- table$sums[k, 1]
    offset <- table$sums[k, 1 + seen] / n
    products <- matrix(0, p, p)
    products[at] <- table$sums[k, -seq_len(p + 1)]
    products <- products[seen, seen, drop = FALSE]
    products[upper.tri(products)] <- t(products)[upper.tri(products)]
    list(n = n, seen = seen, mean = unname(centre[seen] + offset), covariance = unname(products / n - tcrossprod(offset)))
  })
  patterns <- Filter(function(one) length(one$seen) > 0, patterns)
  small <- hidden_counts(vapply(patterns, `[[`, 0, "n"), least_people(survey$source))
  structure(ordered_patterns(patterns[!small], p), withheld = sum(vapply(patterns[small], `[[`, 0, "n")))
}
