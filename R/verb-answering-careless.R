# Who answered as if at random, or in straight lines: likelihood ratios against a model of careful people for these very items, with a promise for
# the whole survey: in one where everybody is careful, anybody is named with the probability of the level.

# list(judged: why nobody is, or NULL; straight, random: flags of people; p: data frame; careful: options of drawn people as answers; rates).
careless_people <- function(survey, items, pages, level, seed) {
  n <- source_count(survey)$used
  nobody <- function(why) {
    unknown <- rep(NA_real_, n)
    list(judged = why, straight = logical(n), random = logical(n), p = data.frame(straight_p = unknown, random_p = unknown), rates = NULL)
  }
  shares <- lapply(items, shares_of_item, survey = survey)
  own <- which(lengths(shares) > 2 & lengths(shares) <= 12)
  pages <- Filter(function(page) length(page) > 1, lapply(pages, function(page) match(intersect(page, own), own)))
  if (all(lengths(shares) <= 2)) return(nobody("two_options"))
  if (length(pages) == 0 || length(own) < 3) return(nobody("few_items"))
  if (n < 50) return(nobody("few_people"))
  # What is on no page joins the first.
  pages[[1]] <- c(pages[[1]], setdiff(seq_along(own), unlist(pages)))
  found <- judged_careless(survey, survey, items[own], pages, level, seed)
  named <- which(found$straight | found$random)
  # The model once more, from the others alone.
  again <- if (length(named) > 0 && length(named) < n / 2) judged_careless(survey, leave_out_cases(survey, named), items[own], pages, level, seed)
  if (!is.null(again)) found <- again
  if (is.null(found)) nobody("no_correlations") else c(list(judged = NULL), found)
}

# Everybody of `survey` judged by the model of `careful`; NULL where these have no correlations.
judged_careless <- function(survey, careful, items, pages, level, seed) {
  r <- latent_correlations(careful, items)
  shares <- lapply(items, shares_of_item, survey = careful)
  if (is.null(r) || any(lengths(shares) < 2)) {
    return(NULL)
  }
  model <- core_careful_model(core_half_implied(r, pages), shares, pages)
  given <- with_seed(seed, options_given(survey, items, model))
  distance <- core_careless_ratios(given$options, model)[!given$empty, "distance"]
  model$scale <- core_personal_scale(distance, model, function(model) with_seed(seed, core_careful_options(model, 2000, random_draws)))
  drawn <- with_seed(seed, core_careful_options(model, 5000, random_draws))
  usual <- core_careless_ratios(drawn, model)
  p_of <- function(ratios) sapply(c(straight = "straight", random = "random"), function(kind) core_tail_p(ratios[, kind], usual[, kind]))
  p <- p_of(core_careless_ratios(given$options, model))
  p[given$empty, ] <- NA
  edge <- core_discovery_edge(p[!is.na(p)], level)
  named <- !is.na(p) & p <= edge
  made <- p_of(core_careless_ratios(careless_options(model, 500, seed), model)) <= edge
  straight <- named[, "straight"] & (!named[, "random"] | p[, "straight"] <= p[, "random"])
  list(straight = straight, random = named[, "random"] & !straight, p = data.frame(straight_p = p[, "straight"], random_p = p[, "random"]),
    edge = edge, values = careful_values(drawn, model), items = items,
    rates = c(straight = mean(made[1:500, "straight"] | made[1:500, "random"]), random = mean(made[501:1000, ] |> rowSums() > 0)))
}

# Share of each option of an item, none of them empty: of all options that the codebook has, or of the answers that there are.
shares_of_item <- function(survey, item) {
  tally <- source_tally(survey, item)
  spec <- item_spec(survey, item)
  whole <- isTRUE(spec$highest - spec$lowest <= 12) && all(tally$values == round(tally$values))
  values <- if (whole) union(tally$values, seq(spec$lowest, spec$highest)) else tally$values[tally$counts > 0]
  counts <- tally$counts[match(values, tally$values)]
  counts[is.na(counts)] <- 0
  stats::setNames((counts + .5) / sum(counts + .5), values)[order(values)]
}

# The options that people chose, unanswered ones filled; empty: who answered less than half.
options_given <- function(survey, items, model) {
  parts <- source_by_rows(survey, items, function(given, cells) {
    options <- core_option_numbers(given, model$values)
    list(options = core_filled_options(options, model, random_draws), empty = rowMeans(is.na(given)) > .5)
  }, keyed = FALSE)
  list(options = do.call(rbind, lapply(parts, `[[`, "options")), empty = unlist(lapply(parts, `[[`, "empty")))
}

# Made-up people: in straight lines, half of them a line a page, every second with slips; and at random.
careless_options <- function(model, count, seed) {
  most <- lengths(model$values)
  with_seed(seed, {
    page <- rep(0, length(most))
    for (k in seq_along(model$pages)) page[model$pages[[k]]] <- k
    line <- matrix(random_draws$uniform(count * length(model$pages)), count)
    line[seq_len(count / 2), ] <- line[seq_len(count / 2), 1]
    straight <- vapply(seq_along(most), function(j) 1 + floor(line[, page[j]] * most[j]), numeric(count))
    slipped <- core_slipped(straight, rep(1, length(most)), most, .08, random_draws)
    odd <- seq_len(count) %% 2 == 1
    straight[odd, ] <- slipped[odd, ]
    rbind(straight, vapply(most, function(k) 1 + floor(random_draws$uniform(count) * k), numeric(count)))
  })
}

careful_values <- function(options, model) {
  for (j in seq_along(model$values)) options[, j] <- model$values[[j]][options[, j]]
  options
}
