# frozen_string_literal: true

module Evrel
  VERSION = '0.1.0'
end
