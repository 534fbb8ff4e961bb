# frozen_string_literal: true

# Up to which revision what happened at a bench has been noted.
class BenchState < ActiveRecord::Base
end
