# frozen_string_literal: true

require 'ipaddr'
require 'socket'

module Evrel
  module Shelf
    # Where a web shelf may lead to. A name is looked up once for a connection,
    # and the connection goes to what was found: what a name server says a moment
    # later changes nothing. Addresses that lead to this machine or into a network
    # of one's own are taken only where they were allowed.
    class Networks
      # Special-purpose addresses (IANA registries after RFC 6890), and those that are no single host.
      INWARD = %w[0.0.0.0/8 10.0.0.0/8 100.64.0.0/10 127.0.0.0/8 169.254.0.0/16 172.16.0.0/12 192.0.0.0/24 192.168.0.0/16 198.18.0.0/15
                  224.0.0.0/3 ::/128 ::1/128 64:ff9b::/96 64:ff9b:1::/48 100::/64 2002::/16 fc00::/7 fe80::/10 fec0::/10 ff00::/8]
               .map { |range| IPAddr.new(range) }.freeze

      # @param allowed [Array<String>] ranges that may be reached all the same: "192.168.4.0/24"
      # @raise [Refused] where one of them is none
      def initialize(allowed = [])
        @allowed = allowed.map do |range|
          IPAddr.new(range)
        rescue IPAddr::Error
          raise Refused.new("“#{range}” is no range of addresses", where: 'networks', hint: 'write it as 192.168.4.0/24')
        end
      end

      # @param host [String] name or address
      # @return [String] an address of it that may be reached
      # @raise [Refused] where it has none
      # @raise [SocketError] where it has no address at all
      def address(host)
        found = Addrinfo.getaddrinfo(host.delete_prefix('[').delete_suffix(']'), nil, nil, :STREAM).map(&:ip_address).uniq
        found.find { |one| reachable?(one) } or
          raise Refused.new("#{host} leads to this machine or into a network of its own", where: 'address',
                                                                                          hint: 'have EVREL_WEB_NETWORKS name that network')
      end

      private

      def reachable?(text)
        address = IPAddr.new(text[/\A[^%]+/])
        address = address.native if address.ipv6? && (address.ipv4_mapped? || address.ipv4_compat?)
        within?(@allowed, address) || !within?(INWARD, address)
      end

      def within?(ranges, address) = ranges.any? { |range| range.family == address.family && range.include?(address) }
    end
  end
end
