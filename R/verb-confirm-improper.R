# What an improper solution says of the structure: mostly what is over its bound names what is wrong. The structure is fitted again within the bounds
# (van Driel, 1978; Chen, Bollen, Paxton, Curran & Kirby, 2001), and held against two factors as one first, then against one change at a time.

# As misfit_readings(), with gains against the bounded fit; NULL where that does not end at a possible solution.
improper_readings <- function(x, structure, basis, fit, options, limits) {
  plain <- length(c(structure$higher, structure$fixed, structure$equal, structure$bounds, structure$means)) == 0
  if (!plain || options$scaling != "variance") {
    return(NULL)
  }
  options$estimator <- sub("robust", "ml", options$estimator)
  options[c("alone", "improper")] <- list(TRUE, "bound")
  names <- names(structure$factors)
  bounded <- within_bounds(structure)
  base <- quick_fit(bounded, basis, options)
  if (is.null(base)) {
    return(NULL)
  }
  scale <- if (!is.null(fit$adjusted)) 1 / fit$adjusted$scale else if (is.null(fit$scale) || is.na(fit$scale)) 1 else fit$scale
  gained <- function(rivals, least) {
    found <- lapply(rivals, function(rival) {
      free <- quick_fit(within_bounds(rival$structure), basis, options)
      if (is.null(free)) {
        return(NULL)
      }
      gain <- (base$chi_square - free$chi_square) / scale - (base$df - free$df) * log(basis$n)
      if (gain <= least) NULL else list(row = plain_table(reading = rival$reading, name = rival$name, item = rival$item, with = rival$with,
        chi_square = free$chi_square, df = free$df, cfi = NA_real_, rmsea = NA_real_, gain = gain), structure = rival$structure)
    })
    found <- Filter(Negate(is.null), found)
    if (length(found) == 0) {
      return(NULL)
    }
    table <- do.call(rbind, lapply(found, `[[`, "row"))
    order <- order(-table$gain)
    list(table = table[order, ], structures = lapply(found, `[[`, "structure")[order])
  }
  base$fit$matrices <- core_sample_matrices(basis, base$cells, base$fit, length(names))
  links <- stats::cov2cor(core_factor_covariance(base$fit$matrices))
  at <- which(lower.tri(links) & abs(links) >= .9, arr.ind = TRUE)
  merged <- gained(lapply(seq_len(nrow(at)), function(i) merged_rival(structure, names[c(at[i, 2], at[i, 1])])), 0)
  if (!is.null(merged)) {
    return(merged)
  }
  base$fit$covariance <- matrix(0, 1, 1)
  changes <- modification_table(base$cells, base$fit, basis, structure_items(structure), names, options, limits)
  gained(c(freed_rivals(structure, changes, "pair"), freed_rivals(structure, changes, "loading")), claimed_gain)
}

# Factor correlations short of one; residual variances are bounded by the option.
within_bounds <- function(structure) {
  pairs <- if (length(structure$factors) > 1) utils::combn(names(structure$factors), 2, simplify = FALSE)
  unlinked <- vapply(structure$unlinked, function(pair) paste(sort(unlist(pair)), collapse = "\n"), "")
  for (pair in pairs) {
    if (!paste(sort(pair), collapse = "\n") %in% unlinked) structure <- sw_constrain(structure, pair[1], pair[2], -.999, .999)
  }
  structure
}

# The readings of a misfit, or of a solution over its bounds; NULL where neither is there.
readings_of <- function(x, structure, basis, cells, fit, tables, options, limits, problems) {
  improper <- any(startsWith(vapply(problems, `[[`, "", "code"), "improper"))
  if (length(problems) == 0 && !is.null(fit$covariance) && fit$df > 0) {
    misfit_readings(x, structure, basis, cells, fit, tables, options, limits)
  } else if (fit$status == "ok" && improper) {
    improper_readings(x, structure, basis, fit, options, limits)
  }
}
